import type Database from 'better-sqlite3';
import type { CauseCode } from '../../core/causes/cause.ts';
import type { Decision, Family, Verdict } from '../../core/records.ts';

/** Families of failures and what people decided about them. */
export class Families {
  constructor(private readonly db: Database.Database) {}

  get(id: string): Family | undefined {
    const row = this.db.prepare('SELECT id, sentence, first_at AS firstAt FROM families WHERE id = ?').get(id) as
      Omit<Family, 'verdict'> | undefined;
    return row && { ...row, verdict: this.verdict(id) };
  }

  /** Families with attempts of test runs, those seen last first. */
  newest(limit = 100): Family[] {
    const rows = this.db
      .prepare(
        `SELECT f.id, f.sentence, f.first_at AS firstAt, max(a.started_at) AS lastAt FROM families f
         JOIN attempts a ON a.family_id = f.id AND a.series_id IS NULL GROUP BY f.id ORDER BY lastAt DESC LIMIT ?`,
      )
      .all(limit) as Omit<Family, 'verdict'>[];
    return rows.map((row) => ({ ...row, verdict: this.verdict(row.id) }));
  }

  /** In how many test runs the family has been seen. */
  runsOf(id: string): number {
    return (
      this.db
        .prepare('SELECT count(DISTINCT run_id) AS n FROM attempts WHERE family_id = ? AND series_id IS NULL')
        .get(id) as { n: number }
    ).n;
  }

  decide(family: string, at: number, kind: Decision['kind'], cause: CauseCode | null, text: string): Verdict {
    this.db
      .prepare('INSERT INTO decisions (family_id, at, kind, cause, text) VALUES (?, ?, ?, ?, ?)')
      .run(family, at, kind, cause, text);
    return this.verdict(family);
  }

  /** Takes the newest decision back; gives it, or undefined when there is none. */
  undo(family: string): Decision | undefined {
    const last = this.verdict(family).last;
    if (!last) return undefined;
    this.db.prepare('UPDATE decisions SET undone = 1 WHERE id = ?').run(last.id);
    return last;
  }

  verdict(family: string): Verdict {
    const decisions = this.db
      .prepare(
        'SELECT id, family_id AS familyId, at, kind, cause, text FROM decisions WHERE family_id = ? AND undone = 0 ORDER BY id',
      )
      .all(family) as Decision[];
    const verdict: Verdict = { confirmed: null, cleared: [], note: '', last: decisions.at(-1) ?? null };
    for (const { kind, cause, text } of decisions) {
      if (kind === 'note') verdict.note = text;
      if (!cause) continue;
      verdict.cleared = verdict.cleared.filter((entry) => entry.cause !== cause);
      if (verdict.confirmed === cause) verdict.confirmed = null;
      if (kind === 'confirm') verdict.confirmed = cause;
      if (kind === 'clear') verdict.cleared.push({ cause, reason: text });
    }
    return verdict;
  }
}
