import type Database from 'better-sqlite3';
import type { Mending } from '../../core/records.ts';
import { newId } from './attempts.ts';
import { prepared } from './prepared.ts';

type Row = Omit<Mending, 'proofs'> & { proofs: string };

const select =
  'SELECT id, attempt_id AS attemptId, drill_id AS drillId, engine, trials, search_id AS searchId, proofs, state, problem, ended, created_at AS createdAt FROM mendings';
const from = (row: Row): Mending => ({ ...row, proofs: JSON.parse(row.proofs) as string[] });

/** Failures that are provoked, mended and proven as one. */
export class Mendings {
  constructor(private readonly db: Database.Database) {}

  add(begun: Pick<Mending, 'attemptId' | 'drillId' | 'engine' | 'trials' | 'searchId'>): Mending {
    const id = newId('m');
    prepared(
      this.db,
      'INSERT INTO mendings (id, attempt_id, drill_id, engine, trials, search_id, created_at) VALUES (@id, @attemptId, @drillId, @engine, @trials, @searchId, @createdAt)',
    ).run({ ...begun, id, createdAt: Date.now() });
    return this.get(id)!;
  }

  get(id: string): Mending | undefined {
    const row = prepared(this.db, `${select} WHERE id = ?`).get(id) as Row | undefined;
    return row && from(row);
  }

  /** Those of an attempt, the newest first. */
  ofAttempt(attempt: string): Mending[] {
    return (prepared(this.db, `${select} WHERE attempt_id = ? ORDER BY created_at DESC`).all(attempt) as Row[]).map(
      from,
    );
  }

  /** Those that go on, the oldest first. */
  unfinished(): Mending[] {
    return (prepared(this.db, `${select} WHERE state = 'running' ORDER BY created_at`).all() as Row[]).map(from);
  }

  addProof(id: string, proof: string): void {
    prepared(this.db, "UPDATE mendings SET proofs = json_insert(proofs, '$[#]', ?) WHERE id = ?").run(proof, id);
  }

  end(id: string, state: Mending['state'], ended: string | null, problem: string | null = null): void {
    prepared(this.db, 'UPDATE mendings SET state = ?, ended = ?, problem = ? WHERE id = ?').run(
      state,
      ended,
      problem,
      id,
    );
  }
}
