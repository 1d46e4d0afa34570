import type Database from 'better-sqlite3';
import type { EvidenceFile, FileFacts, FileKind } from '../../core/records.ts';
import { prepared } from './prepared.ts';

interface Row {
  id: string;
  intake_id: string | null;
  run_id: string;
  name: string;
  kind: FileKind;
  blob: string;
  size: number;
  facts: string;
  state: EvidenceFile['state'];
  attempt_id: string | null;
  score: number;
  reasons: string;
  candidates: string;
  placed_by: EvidenceFile['placedBy'];
  offset_ms: number | null;
  offset_within: number | null;
  offset_how: string;
}

const fromRow = (row: Row): EvidenceFile => ({
  id: row.id,
  intakeId: row.intake_id,
  runId: row.run_id,
  name: row.name,
  kind: row.kind,
  blob: row.blob,
  size: row.size,
  facts: JSON.parse(row.facts) as FileFacts,
  state: row.state,
  attemptId: row.attempt_id,
  score: row.score,
  reasons: JSON.parse(row.reasons) as string[],
  candidates: JSON.parse(row.candidates) as EvidenceFile['candidates'],
  placedBy: row.placed_by,
  offsetMs: row.offset_ms,
  offsetWithin: row.offset_within,
  offsetHow: row.offset_how,
});

/** Files of deliveries and where they were placed. */
export class EvidenceFiles {
  constructor(private readonly db: Database.Database) {}

  /** Adds a file; false when the run has the same content under the same name already. */
  add(file: EvidenceFile): boolean {
    return (
      prepared(
        this.db,
        `INSERT OR IGNORE INTO files (id, intake_id, run_id, name, kind, blob, size, facts, state, attempt_id, score, reasons, candidates, placed_by, offset_ms, offset_within, offset_how)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      ).run(
        file.id,
        file.intakeId,
        file.runId,
        file.name,
        file.kind,
        file.blob,
        file.size,
        JSON.stringify(file.facts),
        file.state,
        file.attemptId,
        file.score,
        JSON.stringify(file.reasons),
        JSON.stringify(file.candidates),
        file.placedBy,
        file.offsetMs,
        file.offsetWithin,
        file.offsetHow,
      ).changes > 0
    );
  }

  /** Adds a file, or puts it in place of the one with its id. */
  replace(file: EvidenceFile): void {
    prepared(this.db, 'DELETE FROM files WHERE id = ?').run(file.id);
    this.add(file);
  }

  ofAttemptNamed(attempt: string, name: string): EvidenceFile | undefined {
    const row = prepared(this.db, 'SELECT * FROM files WHERE attempt_id = ? AND name = ?').get(attempt, name) as
      Row | undefined;
    return row && fromRow(row);
  }

  known(run: string, name: string, blob: string): boolean {
    return (
      prepared(this.db, 'SELECT 1 FROM files WHERE run_id = ? AND name = ? AND blob = ?').get(run, name, blob) !==
      undefined
    );
  }

  get(id: string): EvidenceFile | undefined {
    const row = prepared(this.db, 'SELECT * FROM files WHERE id = ?').get(id) as Row | undefined;
    return row && fromRow(row);
  }

  ofRun(run: string, limit = 5000): EvidenceFile[] {
    return (
      prepared(this.db, 'SELECT * FROM files WHERE run_id = ? ORDER BY name LIMIT ?').all(run, limit) as Row[]
    ).map(fromRow);
  }

  ofAttempt(attempt: string): EvidenceFile[] {
    return (prepared(this.db, 'SELECT * FROM files WHERE attempt_id = ? ORDER BY name').all(attempt) as Row[]).map(
      fromRow,
    );
  }

  waiting(run: string): number {
    return (
      prepared(this.db, "SELECT count(*) AS n FROM files WHERE run_id = ? AND state = 'waiting'").get(run) as {
        n: number;
      }
    ).n;
  }

  place(
    id: string,
    change: Pick<
      EvidenceFile,
      'state' | 'attemptId' | 'score' | 'reasons' | 'placedBy' | 'offsetMs' | 'offsetWithin' | 'offsetHow'
    >,
  ): void {
    prepared(
      this.db,
      'UPDATE files SET state = ?, attempt_id = ?, score = ?, reasons = ?, placed_by = ?, offset_ms = ?, offset_within = ?, offset_how = ? WHERE id = ?',
    ).run(
      change.state,
      change.attemptId,
      change.score,
      JSON.stringify(change.reasons),
      change.placedBy,
      change.offsetMs,
      change.offsetWithin,
      change.offsetHow,
      id,
    );
  }
}
