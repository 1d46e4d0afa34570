import type Database from 'better-sqlite3';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import type { DeliveryWeight, IntakeResult } from '../../core/records.ts';
import { prepared } from './prepared.ts';

/** Rows that go in one transaction when a delivery is taken back: few, so that others have their turn. */
const atOnce = 400;

/** Deliveries of evidence. One that was not finished is undone whole at the next start. */
export class Intakes {
  constructor(private readonly db: Database.Database) {}

  begin(id: string, at: number): void {
    this.db.prepare("INSERT INTO intakes (id, state, started_at) VALUES (?, 'reading', ?)").run(id, at);
  }

  of(id: string, run: string, made: boolean): void {
    this.db
      .prepare(
        'UPDATE intakes SET run_id = ?, made_run = ?, run_started_at = (SELECT started_at FROM runs WHERE id = ?) WHERE id = ?',
      )
      .run(run, made ? 1 : 0, run, id);
  }

  end(id: string, state: 'done' | 'failed', result: IntakeResult | null): void {
    this.db
      .prepare('UPDATE intakes SET state = ?, result = ? WHERE id = ?')
      .run(state, result && JSON.stringify(result), id);
  }

  /** Remembers an attempt as it is, before a delivery changes it for the first time. Its own need no remembering. */
  touches(id: string, attempt: string): void {
    prepared(
      this.db,
      `INSERT OR IGNORE INTO intake_touched
       SELECT ?, id, outcome, message, stack, started_at, duration_ms, run_id, test_id, number, labels FROM attempts WHERE id = ? AND intake_id IS NOT ?`,
    ).run(id, attempt, id);
  }

  /** Remembers events that a delivery is about to add to an attempt that was there before it. */
  adds(id: string, attempt: string, events: readonly EvidenceEvent[]): void {
    const add = prepared(
      this.db,
      `INSERT OR IGNORE INTO intake_events SELECT ?, ?, ?
       WHERE NOT EXISTS (SELECT 1 FROM events WHERE attempt_id = ? AND id = ?)`,
    );
    for (const event of events) add.run(id, attempt, event.id, attempt, event.id);
  }

  /**
   * Takes back everything a delivery brought or changed, some of it at a time: after each part others may write. It
   * can be broken off anywhere and begun anew. @returns at the end, the attempts that are to be analysed again
   */
  *undoing(id: string): Generator<void, string[]> {
    const row = this.db.prepare('SELECT run_id, made_run, run_started_at FROM intakes WHERE id = ?').get(id) as
      { run_id: string | null; made_run: number; run_started_at: number | null } | undefined;
    if (!row) return [];
    const files = this.db.prepare('SELECT id, attempt_id FROM files WHERE intake_id = ?').all(id) as {
      id: string;
      attempt_id: string | null;
    }[];
    const touched = this.db
      .prepare('SELECT attempt_id FROM intake_touched WHERE intake_id = ?')
      .pluck()
      .all(id) as string[];
    for (const file of files) yield* this.inParts(...this.eventsOfFile(file.id, file.attempt_id, row.run_id));
    yield* this.inParts(
      `DELETE FROM events WHERE (attempt_id, id) IN (SELECT attempt_id, event_id FROM intake_events WHERE intake_id = ? LIMIT ${atOnce})`,
      id,
      `DELETE FROM intake_events WHERE (intake_id, attempt_id, event_id) IN (SELECT intake_id, attempt_id, event_id FROM intake_events WHERE intake_id = ? LIMIT ${atOnce})`,
    );
    yield* this.inParts(
      `DELETE FROM events WHERE (attempt_id, id) IN (SELECT e.attempt_id, e.id FROM attempts a JOIN events e ON e.attempt_id = a.id WHERE a.intake_id = ? LIMIT ${atOnce})`,
      id,
    );
    yield* this.inParts(
      `DELETE FROM attempts WHERE rowid IN (SELECT rowid FROM attempts WHERE intake_id = ? LIMIT ${atOnce})`,
      id,
    );
    this.db
      .transaction(() => {
        this.db
          .prepare(
            `UPDATE attempts SET outcome = was.outcome, message = was.message, stack = was.stack, started_at = was.started_at,
               duration_ms = was.duration_ms, run_id = coalesce(was.run_id, attempts.run_id), number = coalesce(was.number, attempts.number),
               test_id = coalesce(was.test_id, attempts.test_id), labels = coalesce(was.labels, attempts.labels)
             FROM intake_touched was WHERE was.intake_id = ? AND was.attempt_id = attempts.id`,
          )
          .run(id);
        this.db
          .prepare(
            "UPDATE runs SET kind = 'tests' WHERE kind = 'moved' AND EXISTS (SELECT 1 FROM attempts WHERE run_id = runs.id)",
          )
          .run();
        if (row.run_started_at !== null)
          this.db
            .prepare('UPDATE runs SET started_at = ?, summary = NULL WHERE id = ?')
            .run(row.run_started_at, row.run_id);
        this.db.prepare('DELETE FROM intake_touched WHERE intake_id = ?').run(id);
        this.db.prepare('DELETE FROM files WHERE intake_id = ?').run(id);
        if (row.made_run)
          this.db
            .prepare('DELETE FROM runs WHERE id = ? AND NOT EXISTS (SELECT 1 FROM attempts WHERE run_id = runs.id)')
            .run(row.run_id);
        this.db.prepare('DELETE FROM intakes WHERE id = ?').run(id);
      })
      .immediate();
    const placed = files.flatMap(({ attempt_id }) => attempt_id ?? []);
    return [...new Set([...touched, ...placed])];
  }

  /** The events of one file: those of the attempt it was placed with, or of all of its run that it was laid on. */
  private eventsOfFile(file: string, attempt: string | null, run: string | null): [string, ...string[]] {
    const where = attempt === null ? 'attempt_id IN (SELECT id FROM attempts WHERE run_id = ?)' : 'attempt_id = ?';
    return [
      `DELETE FROM events WHERE (attempt_id, id) IN (SELECT attempt_id, id FROM events WHERE ${where} AND clock = 'file:${file.replace(/[^\w-]/g, '')}' LIMIT ${atOnce})`,
      attempt ?? run ?? '',
    ];
  }

  /** Runs a deleting statement until it finds nothing more. @param also is run with it, with the same value */
  private *inParts(sql: string, value?: string, also?: string): Generator<void, void> {
    for (;;) {
      const changes = this.db
        .transaction(() => {
          const gone = prepared(this.db, sql).run(value).changes;
          const more = also ? prepared(this.db, also).run(value).changes : 0;
          return gone + more;
        })
        .immediate();
      if (changes === 0) return;
      yield;
    }
  }

  /** Takes a delivery back in one go: for threads and tests, where nobody else waits. */
  undo(id: string): string[] {
    const steps = this.undoing(id);
    for (;;) {
      const step = steps.next();
      if (step.done) return step.value;
    }
  }

  /** Whether it was read to its end, so that it can be taken back. */
  isDone(id: string): boolean {
    return prepared(this.db, "SELECT 1 FROM intakes WHERE id = ? AND state = 'done'").get(id) !== undefined;
  }

  weigh(id: string): DeliveryWeight {
    const count = (table: string): number =>
      prepared(this.db, `SELECT count(*) FROM ${table} WHERE intake_id = ?`).pluck().get(id) as number;
    return { attempts: count('attempts'), files: count('files'), setBack: count('intake_touched') };
  }

  unfinished(): string[] {
    return (this.db.prepare("SELECT id FROM intakes WHERE state = 'reading'").all() as { id: string }[]).map(
      ({ id }) => id,
    );
  }
}
