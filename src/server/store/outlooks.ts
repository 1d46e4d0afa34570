import type Database from 'better-sqlite3';
import { riskAbout } from '../../core/risks/register.ts';
import { outlookOf, listedFrom, type Outlook } from '../../core/risks/outlook.ts';
import type { Risk, RiskKind } from '../../core/risks/risk.ts';
import type { OutlookList, OutlookRow } from '../../core/risks/told.ts';
import { prepared } from './prepared.ts';

/** By so many passing attempts of a test, the newest, it is told what will be. */
const mostAttempts = 12;
/** How many of its attempts, the latest, tell whether it failed lately. */
const lately = 40;
/** A kind that makes less likely than this is not what a test is listed for. */
const kindFrom = 0.04;

/** What of the list is asked for; empty for all. */
export interface OutlookAsked {
  kind: string;
  suite: string;
  words: string;
  /** Only tests of which no attempt failed. */
  green: boolean;
  from: number;
  count: number;
}

const listed = 'o.score >= @listedFrom';

/** What narrows the list, the kind aside. */
function narrowing({ suite, words, green }: OutlookAsked): string {
  const failed = 'SELECT 1 FROM attempts WHERE test_id = o.test_id AND family_id IS NOT NULL AND series_id IS NULL';
  return [
    listed,
    ...(suite ? ['t.suite = @suite'] : []),
    ...(words ? ["instr(lower(t.suite || ' ' || t.title), lower(@words)) > 0"] : []),
    ...(green ? [`NOT EXISTS (${failed})`] : []),
  ].join(' AND ');
}

/** Why tests that pass may not pass the next time. */
export class Outlooks {
  constructor(private readonly db: Database.Database) {}

  /**
   * Keeps the risks of one settled attempt in place of what was kept of it, and tells its test's outlook anew. Called
   * inside a transaction.
   * @param risks undefined for one that did not pass, or that counts for nothing
   */
  put(attempt: string, test: string, startedAt: number, risks: readonly Risk[] | undefined): void {
    const before = prepared(this.db, 'SELECT test_id FROM risks WHERE attempt_id = ?').pluck().get(attempt);
    if (risks)
      prepared(this.db, 'INSERT OR REPLACE INTO risks (attempt_id, test_id, started_at, body) VALUES (?, ?, ?, ?)').run(
        attempt,
        test,
        startedAt,
        JSON.stringify(risks),
      );
    else if (before === undefined) return;
    else prepared(this.db, 'DELETE FROM risks WHERE attempt_id = ?').run(attempt);
    // A report told later whose it is.
    if (before !== undefined && before !== test) this.tellAnew(before as string);
    prepared(
      this.db,
      `DELETE FROM risks WHERE attempt_id IN
         (SELECT attempt_id FROM risks WHERE test_id = ? ORDER BY started_at DESC LIMIT -1 OFFSET ${mostAttempts})`,
    ).run(test);
    this.tellAnew(test);
  }

  private tellAnew(test: string): void {
    const rows = prepared(
      this.db,
      'SELECT attempt_id AS id, body FROM risks WHERE test_id = ? ORDER BY started_at DESC',
    ).all(test) as { id: string; body: string }[];
    prepared(this.db, 'DELETE FROM outlook_kinds WHERE test_id = ?').run(test);
    prepared(this.db, 'DELETE FROM outlooks WHERE test_id = ?').run(test);
    if (rows.length === 0) return;
    const told = outlookOf(rows.map(({ id, body }) => ({ id, risks: JSON.parse(body) as Risk[] })));
    prepared(this.db, 'INSERT INTO outlooks (test_id, score, body) VALUES (?, ?, ?)').run(
      test,
      told.score,
      JSON.stringify(told),
    );
    // Only of tests that are in the list: then the kinds of all are counted without a look at the tests.
    if (told.score < listedFrom) return;
    for (const { kind, chance } of told.risks)
      if (chance >= kindFrom || kind === 'secret-shown')
        prepared(this.db, 'INSERT OR IGNORE INTO outlook_kinds (test_id, kind, chance) VALUES (?, ?, ?)').run(
          test,
          kind,
          chance,
        );
  }

  /** What of one attempt held by luck; none of one that is no longer among the newest of its test. */
  ofAttempt(attempt: string): Risk[] {
    const body = prepared(this.db, 'SELECT body FROM risks WHERE attempt_id = ?').pluck().get(attempt);
    return body === undefined ? [] : (JSON.parse(body as string) as Risk[]);
  }

  /** What is to be expected of one test; undefined where no passing attempt was looked at. */
  of(test: string): Outlook | undefined {
    const body = prepared(this.db, 'SELECT body FROM outlooks WHERE test_id = ?').pluck().get(test);
    return body === undefined ? undefined : (JSON.parse(body as string) as Outlook);
  }

  /** Tests that pass and may not for long, the likeliest first. */
  list(asked: OutlookAsked): OutlookList {
    const { kind, suite, words, from, count } = asked;
    const values = { kind, suite, words, listedFrom };
    const narrowed = narrowing(asked);
    // What is not asked for is not looked up: without it, all is counted by an index.
    const tests = `FROM outlooks o${suite || words ? ' JOIN tests t ON t.id = o.test_id' : ''} WHERE ${narrowed}`;
    const ofKind = kind
      ? ' AND EXISTS (SELECT 1 FROM outlook_kinds k WHERE k.kind = @kind AND k.test_id = o.test_id)'
      : '';
    const rows = prepared(
      this.db,
      `SELECT o.test_id AS id, o.body ${tests}${ofKind} ORDER BY o.score DESC, o.test_id LIMIT @count OFFSET @from`,
    ).all({ ...values, from, count }) as { id: string; body: string }[];
    const name = prepared(this.db, 'SELECT id, suite, title FROM tests WHERE id = ?');
    return {
      tests: rows.map(({ id, body }): OutlookRow => ({
        test: name.get(id) as OutlookRow['test'],
        ...(JSON.parse(body) as Outlook),
        lately: this.lately(id),
      })),
      total: prepared(this.db, `SELECT count(*) ${tests}${ofKind}`).pluck().get(values) as number,
      looked: prepared(this.db, 'SELECT count(*) FROM outlooks').pluck().get() as number,
      kinds: (
        prepared(
          this.db,
          `SELECT kind, count(*) AS tests FROM outlook_kinds
         ${narrowed === listed ? '' : `WHERE test_id IN (SELECT o.test_id ${tests})`} GROUP BY kind ORDER BY tests DESC, kind`,
        ).all(values) as { kind: RiskKind; tests: number }[]
      ).map((one) => ({ ...one, about: riskAbout(one.kind) })),
      suites: prepared(this.db, 'SELECT DISTINCT suite FROM tests ORDER BY suite LIMIT 300').pluck().all() as string[],
    };
  }

  private lately(test: string): OutlookRow['lately'] {
    return prepared(
      this.db,
      `SELECT count(*) AS ran, coalesce(sum(outcome IN ('failed', 'errored')), 0) AS failed
       FROM (SELECT outcome FROM attempts WHERE test_id = ? AND series_id IS NULL AND state = 'ready' ORDER BY started_at DESC LIMIT ${lately})`,
    ).get(test) as OutlookRow['lately'];
  }
}
