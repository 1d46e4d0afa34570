import type Database from 'better-sqlite3';
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
  /** Only tests that did not fail lately. */
  green: boolean;
  from: number;
  count: number;
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
    if (risks)
      prepared(this.db, 'INSERT OR REPLACE INTO risks (attempt_id, test_id, started_at, body) VALUES (?, ?, ?, ?)').run(
        attempt,
        test,
        startedAt,
        JSON.stringify(risks),
      );
    else if (prepared(this.db, 'DELETE FROM risks WHERE attempt_id = ?').run(attempt).changes === 0) return;
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
  list({ kind, suite, words, green, from, count }: OutlookAsked): OutlookList {
    const where = `o.score >= ${listedFrom} AND (@suite = '' OR t.suite = @suite)
      AND (@words = '' OR instr(lower(t.suite || ' ' || t.title), lower(@words)) > 0)
      AND (@green = 0 OR NOT EXISTS (SELECT 1 FROM (SELECT family_id FROM attempts WHERE test_id = o.test_id AND series_id IS NULL
        ORDER BY started_at DESC LIMIT ${lately}) WHERE family_id IS NOT NULL))`;
    const ofKind = `(@kind = '' OR EXISTS (SELECT 1 FROM outlook_kinds k WHERE k.test_id = o.test_id AND k.kind = @kind))`;
    const joined = 'FROM outlooks o JOIN tests t ON t.id = o.test_id WHERE';
    const asked = { kind, suite, words, green: green ? 1 : 0 };
    const rows = prepared(
      this.db,
      `SELECT t.id, t.suite, t.title, o.body ${joined} ${where} AND ${ofKind} ORDER BY o.score DESC, t.id LIMIT @count OFFSET @from`,
    ).all({ ...asked, from, count }) as { id: string; suite: string; title: string; body: string }[];
    return {
      tests: rows.map(({ body, ...test }): OutlookRow => ({
        test,
        ...(JSON.parse(body) as Outlook),
        lately: this.lately(test.id),
      })),
      total: prepared(this.db, `SELECT count(*) ${joined} ${where} AND ${ofKind}`).pluck().get(asked) as number,
      looked: prepared(this.db, 'SELECT count(*) FROM outlooks').pluck().get() as number,
      kinds: prepared(
        this.db,
        `SELECT k.kind, count(*) AS tests FROM outlook_kinds k WHERE k.test_id IN (SELECT o.test_id ${joined} ${where})
         GROUP BY k.kind ORDER BY tests DESC`,
      ).all(asked) as { kind: RiskKind; tests: number }[],
      suites: prepared(
        this.db,
        'SELECT DISTINCT t.suite FROM outlooks o JOIN tests t ON t.id = o.test_id ORDER BY t.suite LIMIT 300',
      )
        .pluck()
        .all() as string[],
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
