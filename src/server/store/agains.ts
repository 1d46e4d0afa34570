import type Database from 'better-sqlite3';
import type { Again, AgainEnded } from '../../core/records.ts';
import type { TestName } from '../../core/evidence/attempt.ts';
import { newId } from './attempts.ts';
import { prepared } from './prepared.ts';

type Row = Omit<Again, 'tests' | 'series' | 'ended' | 'untilFails'> &
  Record<'tests' | 'series' | 'ended', string> & { untilFails: number };

const select =
  'SELECT id, command, run_id AS runId, tests, times, until_fails AS untilFails, series, ended, state, problem, created_at AS createdAt FROM agains';
const from = (row: Row): Again => ({
  ...row,
  untilFails: row.untilFails === 1,
  tests: JSON.parse(row.tests) as string[],
  series: JSON.parse(row.series) as string[],
  ended: JSON.parse(row.ended) as AgainEnded[],
});

/** So much of the end of what a command writes is kept, characters. */
const mostOutput = 200_000;

/** Tests that are run again, and what their command wrote. */
export class Agains {
  constructor(private readonly db: Database.Database) {}

  add(begun: Pick<Again, 'command' | 'runId' | 'tests' | 'times' | 'untilFails' | 'series'>): Again {
    const id = newId('g');
    prepared(
      this.db,
      'INSERT INTO agains (id, command, run_id, tests, times, until_fails, series, created_at) VALUES (@id, @command, @runId, @tests, @times, @untilFails, @series, @createdAt)',
    ).run({
      ...begun,
      id,
      tests: JSON.stringify(begun.tests),
      series: JSON.stringify(begun.series),
      untilFails: Number(begun.untilFails),
      createdAt: Date.now(),
    });
    return this.get(id)!;
  }

  get(id: string): Again | undefined {
    const row = prepared(this.db, `${select} WHERE id = ?`).get(id) as Row | undefined;
    return row && from(row);
  }

  newest(limit = 20): Again[] {
    return (prepared(this.db, `${select} ORDER BY created_at DESC LIMIT ?`).all(limit) as Row[]).map(from);
  }

  /** Those whose command is run or waits for it. */
  unfinished(): Again[] {
    const rows = prepared(this.db, `${select} WHERE command IS NOT NULL AND state IN ('waiting', 'running')`).all();
    return (rows as Row[]).map(from);
  }

  set(id: string, state: Again['state'], problem: string | null = null): void {
    prepared(this.db, 'UPDATE agains SET state = ?, problem = ? WHERE id = ?').run(state, problem, id);
  }

  addEnded(id: string, ended: AgainEnded): void {
    prepared(this.db, "UPDATE agains SET ended = json_insert(ended, '$[#]', json(?)) WHERE id = ?").run(
      JSON.stringify(ended),
      id,
    );
  }

  /** Adds to what the command wrote; of much, the end is kept. */
  wrote(id: string, text: string): void {
    const { text: before, from: dropped } = this.output(id);
    const all = before + text;
    const kept = all.slice(-mostOutput);
    prepared(this.db, 'UPDATE agains SET output = ?, output_from = ? WHERE id = ?').run(
      kept,
      dropped + all.length - kept.length,
      id,
    );
  }

  /** What the command wrote, from a character on: where that is no longer kept, from the first that is. */
  output(id: string, after = 0): { text: string; from: number } {
    const row = prepared(this.db, 'SELECT output AS text, output_from AS "from" FROM agains WHERE id = ?').get(id) as
      { text: string; from: number } | undefined;
    if (!row) return { text: '', from: 0 };
    const skipped = Math.min(row.text.length, Math.max(0, after - row.from));
    return { text: row.text.slice(skipped), from: row.from + skipped };
  }

  testNames(ids: readonly string[]): (TestName & { id: string })[] {
    return prepared(
      this.db,
      'SELECT id, suite, title, file FROM tests WHERE id IN (SELECT value FROM json_each(?)) ORDER BY suite, title',
    ).all(JSON.stringify(ids)) as (TestName & { id: string })[];
  }

  /** An attempt of each test to make its drill of: the newest that failed, else the newest; recorded ones only. */
  attemptsToPlay(tests: readonly string[]): { test: string; attempt: string }[] {
    return prepared(
      this.db,
      `SELECT test_id AS test, id AS attempt FROM (
         SELECT test_id, id, row_number() OVER (PARTITION BY test_id ORDER BY outcome = 'failed' DESC, started_at DESC) AS place
         FROM attempts WHERE test_id IN (SELECT value FROM json_each(?)) AND series_id IS NULL AND state = 'ready'
           AND EXISTS (SELECT 1 FROM events WHERE attempt_id = attempts.id AND lane = 'step' AND kind = 'command')
       ) WHERE place = 1`,
    ).all(JSON.stringify(tests)) as { test: string; attempt: string }[];
  }

  /** The attempt that was added last, by a number that only grows. */
  lastAttempt(): number {
    return prepared(this.db, 'SELECT coalesce(max(rowid), 0) FROM attempts').pluck().get() as number;
  }

  /** Attempts of a run that were added after another, and how many of them failed. */
  countAfter(run: string, last: number): { attempts: number; failed: number } {
    return prepared(
      this.db,
      "SELECT count(*) AS attempts, coalesce(sum(outcome IN ('failed', 'errored')), 0) AS failed FROM attempts WHERE run_id = ? AND rowid > ?",
    ).get(run, last) as { attempts: number; failed: number };
  }
}
