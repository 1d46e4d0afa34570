import type Database from 'better-sqlite3';
import { standingOf, type Outcome } from '../../core/evidence/attempt.ts';
import type { Run } from '../../core/records.ts';
import { newId } from './attempts.ts';

interface Row {
  id: string;
  name: string;
  started_at: number;
  commit_id: string | null;
  branch: string | null;
}

/** Unnamed sessions that begin within this time of each other belong to one run. */
const unnamedPauseMs = 10 * 60_000;

/** Runs and their totals. */
export class Runs {
  constructor(private readonly db: Database.Database) {}

  /** The run of this name; made when there is none. */
  named(
    name: string,
    startedAt: number,
    more: { commit?: string; branch?: string; kind?: 'tests' | 'trials' } = {},
  ): string {
    const known = this.db.prepare('SELECT id FROM runs WHERE name = ?').get(name) as { id: string } | undefined;
    if (known) return known.id;
    const id = newId('r');
    this.db
      .prepare('INSERT INTO runs (id, name, kind, started_at, commit_id, branch) VALUES (?, ?, ?, ?, ?, ?)')
      .run(id, name, more.kind ?? 'tests', startedAt, more.commit ?? null, more.branch ?? null);
    return id;
  }

  /** The run for a session that named none: the running burst of such sessions, or a new one. */
  unnamed(startedAt: number): string {
    const recent = this.db
      .prepare(
        "SELECT r.id FROM runs r JOIN attempts a ON a.run_id = r.id WHERE r.name LIKE 'Unnamed run of %' AND a.started_at > ? ORDER BY a.started_at DESC LIMIT 1",
      )
      .get(startedAt - unnamedPauseMs) as { id: string } | undefined;
    if (recent) return recent.id;
    const time = new Date(startedAt).toISOString().slice(0, 19).replace('T', ' ');
    return this.named(`Unnamed run of ${time}`, startedAt);
  }

  newest(limit = 50, before = Number.MAX_SAFE_INTEGER): Run[] {
    const rows = this.db
      .prepare("SELECT * FROM runs WHERE kind = 'tests' AND started_at < ? ORDER BY started_at DESC LIMIT ?")
      .all(before, limit) as Row[];
    return rows.map((row) => this.withTotals(row));
  }

  get(id: string): Run | undefined {
    const row = this.db.prepare('SELECT * FROM runs WHERE id = ?').get(id) as Row | undefined;
    return row && this.withTotals(row);
  }

  private withTotals(row: Row): Run {
    const attempts = this.db
      .prepare(
        'SELECT test_id, environment_key, outcome, state FROM attempts WHERE run_id = ? ORDER BY test_id, environment_key, number, started_at',
      )
      .all(row.id) as { test_id: string; environment_key: string; outcome: Outcome; state: string }[];
    const cells = new Map<string, { test: string; attempts: { outcome: Outcome }[] }>();
    for (const attempt of attempts) {
      const key = `${attempt.test_id}\n${attempt.environment_key}`;
      const cell = cells.get(key);
      if (cell) cell.attempts.push(attempt);
      else cells.set(key, { test: attempt.test_id, attempts: [attempt] });
    }
    // A test counts once: as the worst of what its environments say.
    const order = ['passed', 'skipped', 'unreported', 'interrupted', 'flaky', 'errored', 'failed'] as const;
    const worst = new Map<string, (typeof order)[number]>();
    for (const { test, attempts: list } of cells.values()) {
      const standing = standingOf(list);
      const known = worst.get(test);
      if (known === undefined || order.indexOf(standing) > order.indexOf(known)) worst.set(test, standing);
    }
    const count = (standing: string): number => [...worst.values()].filter((one) => one === standing).length;
    return {
      id: row.id,
      name: row.name,
      startedAt: row.started_at,
      commit: row.commit_id,
      branch: row.branch,
      recording: attempts.some(({ state }) => state === 'recording'),
      totals: {
        tests: worst.size,
        attempts: attempts.length,
        passed: count('passed'),
        failed: count('failed'),
        flaky: count('flaky'),
        skipped: count('skipped'),
        errored: count('errored'),
        interrupted: count('interrupted'),
        unreported: count('unreported'),
      },
    };
  }
}
