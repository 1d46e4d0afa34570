import type Database from 'better-sqlite3';
import type { IntakeResult } from '../../core/records.ts';

/** Deliveries of evidence. One that was not finished is undone whole at the next start. */
export class Intakes {
  constructor(private readonly db: Database.Database) {}

  begin(id: string, at: number): void {
    this.db.prepare("INSERT INTO intakes (id, state, started_at) VALUES (?, 'reading', ?)").run(id, at);
  }

  of(id: string, run: string, made: boolean): void {
    this.db.prepare('UPDATE intakes SET run_id = ?, made_run = ? WHERE id = ?').run(run, made ? 1 : 0, id);
  }

  end(id: string, state: 'done' | 'failed', result: IntakeResult | null): void {
    this.db
      .prepare('UPDATE intakes SET state = ?, result = ? WHERE id = ?')
      .run(state, result && JSON.stringify(result), id);
  }

  /** Takes back everything a delivery brought. @param batch called between parts, so that others can write */
  undo(id: string): void {
    const row = this.db.prepare('SELECT run_id, made_run FROM intakes WHERE id = ?').get(id) as
      { run_id: string | null; made_run: number } | undefined;
    if (!row) return;
    this.db.transaction(() => {
      this.db
        .prepare(
          "DELETE FROM events WHERE clock IN (SELECT 'file:' || id FROM files WHERE intake_id = ?) AND attempt_id IN (SELECT id FROM attempts WHERE run_id = ?)",
        )
        .run(id, row.run_id);
      this.db.prepare('DELETE FROM files WHERE intake_id = ?').run(id);
      this.db.prepare('DELETE FROM attempts WHERE intake_id = ?').run(id);
      if (row.made_run)
        this.db
          .prepare('DELETE FROM runs WHERE id = ? AND NOT EXISTS (SELECT 1 FROM attempts WHERE run_id = runs.id)')
          .run(row.run_id);
      this.db.prepare('DELETE FROM intakes WHERE id = ?').run(id);
    })();
  }

  unfinished(): string[] {
    return (this.db.prepare("SELECT id FROM intakes WHERE state = 'reading'").all() as { id: string }[]).map(
      ({ id }) => id,
    );
  }
}
