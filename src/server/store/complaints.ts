import type Database from 'better-sqlite3';
import type { Outcome } from '../../core/evidence/attempt.ts';
import type { Against, Policies } from '../../core/rules/against.ts';
import type { Complaint } from '../../core/rules/complaints.ts';
import type { Heard } from '../../core/rules/preview.ts';
import { prepared } from './prepared.ts';

/** Over how many runs, the latest, and attempts of them rules are tried and brought to bear. */
export const looksBack = { runs: 20, attempts: 20_000 } as const;

/** What pages complained of, by attempt, and what of it is against the standing rules. */
export class Complaints {
  constructor(private readonly db: Database.Database) {}

  /** Keeps what was complained of in an attempt, and what the policies say of it. Called inside a transaction. */
  put(attempt: string, complaints: readonly Complaint[], policies: Policies, startedAt: number): void {
    prepared(this.db, 'INSERT OR REPLACE INTO complaints (attempt_id, body) VALUES (?, ?)').run(
      attempt,
      JSON.stringify(complaints),
    );
    this.judge(attempt, policies.against(complaints, startedAt));
  }

  of(attempt: string): Complaint[] {
    const body = prepared(this.db, 'SELECT body FROM complaints WHERE attempt_id = ?').pluck().get(attempt);
    return body === undefined ? [] : (JSON.parse(body as string) as Complaint[]);
  }

  /** Holds the policies against an attempt once more. @returns whether that changed anything */
  judgeAgain(attempt: string, policies: Policies): boolean {
    const startedAt = prepared(this.db, 'SELECT started_at FROM attempts WHERE id = ?').pluck().get(attempt) as
      number | undefined;
    return startedAt !== undefined && this.judge(attempt, policies.against(this.of(attempt), startedAt));
  }

  private judge(attempt: string, against: Against | undefined): boolean {
    const told = against ? JSON.stringify(against) : null;
    return (
      prepared(this.db, 'UPDATE attempts SET against = ? WHERE id = ? AND against IS NOT ?').run(told, attempt, told)
        .changes > 0
    );
  }

  /** The latest runs of tests, the newest first. */
  latestRuns(): string[] {
    return prepared(
      this.db,
      `SELECT id FROM runs WHERE kind = 'tests' ORDER BY started_at DESC LIMIT ${looksBack.runs}`,
    )
      .pluck()
      .all() as string[];
  }

  /** Attempts with evidence of the latest runs, the newest run first. */
  lately(): string[] {
    const ids: string[] = [];
    for (const run of this.latestRuns()) {
      const some = prepared(
        this.db,
        'SELECT a.id FROM attempts a JOIN complaints c ON c.attempt_id = a.id WHERE a.run_id = ? LIMIT ?',
      )
        .pluck()
        .all(run, looksBack.attempts - ids.length) as string[];
      ids.push(...some);
      if (ids.length >= looksBack.attempts) break;
    }
    return ids;
  }

  /** The same with what was complained of in each. */
  *heardLately(): Generator<Heard> {
    let left: number = looksBack.attempts;
    for (const run of this.latestRuns()) {
      const rows = prepared(
        this.db,
        `SELECT a.id, a.test_id AS test, t.title, a.outcome, a.started_at AS startedAt, c.body
         FROM attempts a JOIN complaints c ON c.attempt_id = a.id JOIN tests t ON t.id = a.test_id WHERE a.run_id = ? LIMIT ?`,
      ).iterate(run, left) as IterableIterator<
        Omit<Heard, 'complaints' | 'outcome'> & { body: string; outcome: Outcome }
      >;
      for (const { body, ...one } of rows) {
        left--;
        yield { ...one, complaints: JSON.parse(body) as Complaint[] };
      }
      if (left <= 0) return;
    }
  }
}
