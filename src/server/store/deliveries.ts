import type Database from 'better-sqlite3';
import type { IntakeResult } from '../../core/records.ts';
import { prepared } from './prepared.ts';

export type DeliveryStage = 'receiving' | 'taking' | 'done' | 'failed';

/** What is kept of a delivery that is sent file by file. */
export interface KeptDelivery {
  id: string;
  salt: Buffer;
  files: number;
  size: number;
  state: DeliveryStage;
  begunAt: number;
  heardAt: number;
  result: IntakeResult | null;
  problem: string | null;
}

interface Row {
  id: string;
  salt: Buffer;
  files: number;
  size: number;
  state: DeliveryStage;
  begun_at: number;
  heard_at: number;
  result: string | null;
  problem: string | null;
}

const read = (row: Row): KeptDelivery => ({
  id: row.id,
  salt: row.salt,
  files: row.files,
  size: row.size,
  state: row.state,
  begunAt: row.begun_at,
  heardAt: row.heard_at,
  result: row.result === null ? null : (JSON.parse(row.result) as IntakeResult),
  problem: row.problem,
});

/** Deliveries that are sent file by file, and how much of each file has come. */
export class Deliveries {
  constructor(private readonly db: Database.Database) {}

  get(id: string): KeptDelivery | undefined {
    const row = prepared(this.db, 'SELECT * FROM deliveries WHERE id = ?').get(id) as Row | undefined;
    return row && read(row);
  }

  /** Newest first. */
  all(most: number): KeptDelivery[] {
    return (prepared(this.db, 'SELECT * FROM deliveries ORDER BY begun_at DESC LIMIT ?').all(most) as Row[]).map(read);
  }

  begin({ id, salt, files, size }: Pick<KeptDelivery, 'id' | 'salt' | 'files' | 'size'>, at: number): void {
    prepared(
      this.db,
      `INSERT OR REPLACE INTO deliveries (id, salt, files, size, state, begun_at, heard_at) VALUES (?, ?, ?, ?, 'receiving', ?, ?)`,
    ).run(id, salt, files, size, at, at);
  }

  /** Bytes that have come of each file, by its number; 0 where nothing is said. */
  parts(id: string): Map<number, number> {
    const rows = prepared(this.db, 'SELECT number, have FROM delivery_parts WHERE delivery_id = ?').all(id) as {
      number: number;
      have: number;
    }[];
    return new Map(rows.map(({ number, have }) => [number, have]));
  }

  has(id: string, number: number, have: number, at: number): void {
    this.db.transaction(() => {
      prepared(
        this.db,
        `INSERT INTO delivery_parts (delivery_id, number, have) VALUES (?, ?, ?)
         ON CONFLICT (delivery_id, number) DO UPDATE SET have = excluded.have`,
      ).run(id, number, have);
      prepared(this.db, 'UPDATE deliveries SET heard_at = ? WHERE id = ?').run(at, id);
    })();
  }

  stage(id: string, state: DeliveryStage, result: IntakeResult | null = null, problem: string | null = null): void {
    this.db.transaction(() => {
      prepared(this.db, 'UPDATE deliveries SET state = ?, result = ?, problem = ? WHERE id = ?').run(
        state,
        result && JSON.stringify(result),
        problem,
        id,
      );
      if (state === 'done' || state === 'failed')
        prepared(this.db, 'DELETE FROM delivery_parts WHERE delivery_id = ?').run(id);
    })();
  }

  remove(id: string): void {
    prepared(this.db, 'DELETE FROM deliveries WHERE id = ?').run(id);
  }
}
