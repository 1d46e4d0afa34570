import type Database from 'better-sqlite3';
import type { CauseCode } from '../../core/causes/cause.ts';
import type { Dated } from '../../core/history/points.ts';
import type { PastAttempt } from '../../core/history/test-runs.ts';
import type { RunName } from '../../core/history/test-history.ts';
import { prepared } from './prepared.ts';

/** Most attempts of one test, the latest, that a history is told of. */
const mostAttempts = 20_000;
/** Of so many tests, those that failed most, it is told what mending them would save. */
const mostTests = 100;

/** Of which runs and tests; empty for every one. */
export interface Of {
  branch: string;
  suite: string;
  environment: string;
}
// What nobody asked for costs no join.
const joined = ({ branch, suite }: Of): string =>
  `${branch ? 'JOIN runs r ON r.id = a.run_id ' : ''}${suite ? 'JOIN tests t ON t.id = a.test_id' : ''}`;
const asked = ({ branch, suite, environment }: Of): string =>
  [
    branch && 'AND r.branch = @branch',
    suite && 'AND t.suite = @suite',
    environment && 'AND a.environment_key = @environment',
  ]
    .filter(Boolean)
    .join(' ');
export const isAll = (of: Of): boolean => !of.branch && !of.suite && !of.environment;

/** What was, over weeks. */
export class History {
  constructor(private readonly db: Database.Database) {}

  test(id: string): { id: string; suite: string; title: string; file: string | null } | undefined {
    return prepared(this.db, 'SELECT id, suite, title, file FROM tests WHERE id = ?').get(id) as
      { id: string; suite: string; title: string; file: string | null } | undefined;
  }

  /** The attempts of a test in runs of tests, the latest, in time order. */
  ofTest(test: string, since: number): PastAttempt[] {
    return (
      prepared(
        this.db,
        `SELECT id, test_id AS test, run_id AS run, environment_key AS environment, number, outcome,
           started_at AS startedAt, duration_ms AS durationMs, family_id AS family
         FROM attempts WHERE test_id = ? AND started_at >= ? AND series_id IS NULL ORDER BY started_at DESC LIMIT ?`,
      ).all(test, since, mostAttempts) as PastAttempt[]
    ).reverse();
  }

  /** The attempts in which a failure came, and the tests it came in. */
  ofFamily(family: string): { attempts: Set<string>; tests: string[] } {
    const rows = prepared(
      this.db,
      'SELECT id, test_id AS test FROM attempts WHERE family_id = ? AND series_id IS NULL ORDER BY started_at DESC LIMIT ?',
    ).all(family, mostAttempts) as { id: string; test: string }[];
    return { attempts: new Set(rows.map(({ id }) => id)), tests: [...new Set(rows.map(({ test }) => test))] };
  }

  names(runs: Iterable<string>): Map<string, RunName> {
    const one = prepared(this.db, 'SELECT id, name, commit_id AS "commit", branch FROM runs WHERE id = ?');
    const names = new Map<string, RunName>();
    for (const run of new Set(runs)) {
      const name = one.get(run) as RunName | undefined;
      if (name) names.set(run, name);
    }
    return names;
  }

  /**
   * What the runs of tests since a time came to, each counted, in time order.
   * @param of empty for every branch, suite, environment
   */
  counted(since: number, of: Of): Dated[] {
    return prepared(
      this.db,
      `SELECT r.started_at AS at, r.commit_id AS "commit", sum(p.ran) AS ran, sum(p.failed) AS failed, sum(p.flaky) AS flaky,
         sum(p.retry_ms) AS retryMs
       FROM runs r JOIN run_parts p ON p.run_id = r.id
       WHERE r.kind = 'tests' AND r.started_at >= @since AND (@branch = '' OR r.branch = @branch)
         AND (@suite = '' OR p.suite = @suite) AND (@environment = '' OR p.environment = @environment)
       GROUP BY r.id ORDER BY r.started_at`,
    ).all({ since, ...of }) as Dated[];
  }

  /** Suites and environments of the latest runs. */
  parts(): { suites: string[]; environments: string[] } {
    const rows = prepared(
      this.db,
      `SELECT DISTINCT p.suite, p.environment FROM run_parts p
       WHERE p.run_id IN (SELECT id FROM runs WHERE kind = 'tests' ORDER BY started_at DESC LIMIT 40)`,
    ).all() as { suite: string; environment: string }[];
    const sorted = (of: 'suite' | 'environment'): string[] => [...new Set(rows.map((row) => row[of]))].sort();
    return { suites: sorted('suite'), environments: sorted('environment') };
  }

  branches(): string[] {
    return prepared(
      this.db,
      "SELECT DISTINCT branch FROM runs WHERE branch IS NOT NULL AND kind = 'tests' ORDER BY branch LIMIT 200",
    )
      .pluck()
      .all() as string[];
  }

  /** The tests that failed most since a time, the most first. */
  failing(since: number, of: Of): string[] {
    return prepared(
      this.db,
      `SELECT a.test_id FROM attempts a INDEXED BY attempts_failed_at ${joined(of)}
       WHERE a.family_id IS NOT NULL AND a.series_id IS NULL AND a.started_at >= @since ${asked(of)}
       GROUP BY a.test_id ORDER BY count(*) DESC LIMIT @most`,
    )
      .pluck()
      .all({ since, most: mostTests, ...of }) as string[];
  }

  /** Families that came in such runs and suites. */
  families(of: Of): Set<string> {
    return new Set(
      prepared(
        this.db,
        `SELECT DISTINCT a.family_id FROM attempts a INDEXED BY attempts_failed_at ${joined(of)}
         WHERE a.family_id IS NOT NULL AND a.series_id IS NULL ${asked(of)}`,
      )
        .pluck()
        .all(of) as string[],
    );
  }

  /** Leading causes of what failed, by day, since a time. */
  causes(since: number, of: Of): { day: number; cause: CauseCode | null; attempts: number }[] {
    return prepared(
      this.db,
      `SELECT CAST(a.started_at / 86400000 AS INTEGER) * 86400000 AS day, CASE WHEN a.undetermined = 0 THEN s.cause END AS cause, count(*) AS attempts
       FROM attempts a INDEXED BY attempts_failed_at LEFT JOIN suspects s ON s.attempt_id = a.id AND s.position = 0
       ${joined(of)} WHERE a.family_id IS NOT NULL AND a.series_id IS NULL AND a.started_at >= @since ${asked(of)} GROUP BY 1, 2 ORDER BY 1`,
    ).all({ since, ...of }) as { day: number; cause: CauseCode | null; attempts: number }[];
  }

  /** The cause that stands out among the latest attempts of a family. */
  leadingCause(family: string): CauseCode | undefined {
    return prepared(
      this.db,
      `SELECT s.cause FROM attempts a JOIN suspects s ON s.attempt_id = a.id AND s.position = 0
       WHERE a.family_id = ? AND a.undetermined = 0 AND a.series_id IS NULL ORDER BY a.started_at DESC LIMIT 1`,
    )
      .pluck()
      .get(family) as CauseCode | undefined;
  }
}
