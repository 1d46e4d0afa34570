import type Database from 'better-sqlite3';
import { randomBytes } from 'node:crypto';
import type { Analysis, Why } from '../../core/analyse.ts';
import { environmentKey, type AttemptState, type Environment, type Outcome } from '../../core/evidence/attempt.ts';
import { shortHash } from '../../core/evidence/hash.ts';
import type { Failure } from '../../core/failures/failure.ts';
import type { Clue } from '../../core/clues/clue.ts';
import type { CauseCode } from '../../core/causes/cause.ts';
import type { Suspect, Suspects } from '../../core/causes/score.ts';
import type { Attempt, AttemptLabels } from '../../core/records.ts';
import type { Against } from '../../core/rules/against.ts';
import type { ReadStack } from '../../core/rules/preview-reading.ts';
import type { Families } from './families.ts';
import { wordless } from '../../core/families/fingerprint.ts';
import { prepared } from './prepared.ts';

export interface NewAttempt {
  runId: string;
  test: { suite: string; title: string; file?: string };
  number?: number;
  environment: Environment;
  startedAt: number;
  labels?: AttemptLabels;
  seriesId?: string;
  id?: string;
  source?: Attempt['source'];
  intakeId?: string;
}

export interface FinishedAttempt {
  id: string;
  runId: string;
  test: { suite: string; title: string; file?: string };
  number: number;
  outcome: Outcome;
  environment: Environment;
  startedAt: number;
  durationMs: number;
  message: string;
  stack: string;
  labels: AttemptLabels;
  analysisVersion: number;
  intakeId: string;
}

interface Row {
  id: string;
  run_id: string;
  test_id: string;
  suite: string;
  title: string;
  file: string | null;
  number: number;
  outcome: Outcome;
  state: AttemptState;
  environment: string;
  environment_key: string;
  started_at: number;
  duration_ms: number;
  message: string;
  stack: string;
  interrupted_by: string | null;
  labels: string;
  failure: string | null;
  family_id: string | null;
  undetermined: number;
  series_id: string | null;
  source: Attempt['source'];
  cause: CauseCode | null;
  probability: number | null;
  against: string | null;
}

const select = `
  SELECT a.*, t.suite, t.title, t.file, s.cause, s.probability
  FROM attempts a JOIN tests t ON t.id = a.test_id
  LEFT JOIN suspects s ON s.attempt_id = a.id AND s.position = 0`;

const fromRow = (row: Row): Attempt => ({
  id: row.id,
  runId: row.run_id,
  test: { id: row.test_id, suite: row.suite, title: row.title, ...(row.file ? { file: row.file } : {}) },
  number: row.number,
  outcome: row.outcome,
  state: row.state,
  environment: { ...(JSON.parse(row.environment) as Environment), key: row.environment_key },
  startedAt: row.started_at,
  durationMs: row.duration_ms,
  message: row.message,
  stack: row.stack,
  interruptedBy: row.interrupted_by,
  labels: JSON.parse(row.labels) as AttemptLabels,
  failure: row.failure ? (JSON.parse(row.failure) as Failure) : null,
  familyId: row.family_id,
  undetermined: row.undetermined === 1,
  seriesId: row.series_id,
  source: row.source,
  leading: row.cause && !row.undetermined ? { cause: row.cause, probability: row.probability! } : null,
  against: row.against ? (JSON.parse(row.against) as Against) : null,
});

export const newId = (letter: string): string => `${letter}-${randomBytes(6).toString('hex')}`;

/** Attempts with their tests, clues and suspects. */
export class Attempts {
  constructor(
    private readonly db: Database.Database,
    private readonly families: Families,
  ) {}

  begin(attempt: NewAttempt): string {
    const id = attempt.id ?? newId('a');
    const test = this.test(attempt.test);
    const key = environmentKey(attempt.environment);
    this.db.transaction(() => {
      const number =
        attempt.number ??
        (
          this.db
            .prepare(
              'SELECT coalesce(max(number), 0) + 1 AS n FROM attempts WHERE run_id = ? AND test_id = ? AND environment_key = ?',
            )
            .get(attempt.runId, test, key) as { n: number }
        ).n;
      prepared(
        this.db,
        'INSERT INTO attempts (id, run_id, test_id, number, outcome, state, environment, environment_key, started_at, labels, series_id, source, intake_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
      ).run(
        id,
        attempt.runId,
        test,
        number,
        'unreported',
        'recording',
        JSON.stringify(attempt.environment),
        key,
        attempt.startedAt,
        JSON.stringify(attempt.labels ?? {}),
        attempt.seriesId ?? null,
        attempt.source ?? 'recorded',
        attempt.intakeId ?? null,
      );
    })();
    return id;
  }

  /**
   * Adds an attempt of a report, finished and analysed as far as it goes without evidence beside it.
   * False when it is there already.
   */
  add(one: FinishedAttempt): boolean {
    const test = this.test(one.test);
    return (
      prepared(
        this.db,
        `INSERT OR IGNORE INTO attempts (id, run_id, test_id, number, outcome, state, environment, environment_key, started_at, duration_ms, message, stack, labels, analysis_version, source, intake_id)
         VALUES (?, ?, ?, ?, ?, 'ready', ?, ?, ?, ?, ?, ?, ?, ?, 'imported', ?)`,
      ).run(
        one.id,
        one.runId,
        test,
        one.number,
        one.outcome,
        JSON.stringify(one.environment),
        environmentKey(one.environment),
        one.startedAt,
        one.durationMs,
        one.message,
        one.stack,
        JSON.stringify(one.labels),
        one.analysisVersion,
        one.intakeId,
      ).changes > 0
    );
  }

  private test({ suite, title, file }: NewAttempt['test']): string {
    const id = `t-${shortHash(`${suite}\n${title}`)}`;
    prepared(
      this.db,
      'INSERT INTO tests (id, suite, title, file) VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET file = coalesce(excluded.file, file) WHERE excluded.file IS NOT file',
    ).run(id, suite, title, file ?? null);
    return id;
  }

  rename(id: string, test: NewAttempt['test']): void {
    this.db.prepare('UPDATE attempts SET test_id = ? WHERE id = ?').run(this.test(test), id);
  }

  resize(id: string, width: number, height: number): void {
    const attempt = this.get(id);
    if (!attempt || attempt.environment.width) return;
    const { key: _key, ...environment } = attempt.environment;
    const sized = { ...environment, width, height };
    this.db
      .prepare('UPDATE attempts SET environment = ?, environment_key = ? WHERE id = ?')
      .run(JSON.stringify(sized), environmentKey(sized), id);
  }

  get(id: string): Attempt | undefined {
    const row = prepared(this.db, `${select} WHERE a.id = ?`).get(id) as Row | undefined;
    return row && fromRow(row);
  }

  /** Attempts that reporters have begun and not ended. */
  streaming(): string[] {
    return (
      this.db.prepare("SELECT id FROM attempts WHERE state = 'recording' AND source = 'streamed'").all() as {
        id: string;
      }[]
    ).map(({ id }) => id);
  }

  /** The attempts that began last. */
  newest(most: number): string[] {
    return prepared(this.db, 'SELECT id FROM attempts ORDER BY rowid DESC LIMIT ?').pluck().all(most) as string[];
  }

  /** The newest attempt of a test. */
  latestOf(test: string): { attemptId: string; outcome: Outcome; startedAt: number; runId: string } | undefined {
    return prepared(
      this.db,
      'SELECT id AS attemptId, outcome, started_at AS startedAt, run_id AS runId FROM attempts WHERE test_id = ? AND series_id IS NULL ORDER BY started_at DESC LIMIT 1',
    ).get(test) as { attemptId: string; outcome: Outcome; startedAt: number; runId: string } | undefined;
  }

  /** Attempts of the same test in the same environment and run, in order. */
  siblings(of: Attempt): { id: string; number: number; outcome: Outcome }[] {
    return prepared(
      this.db,
      'SELECT id, number, outcome FROM attempts WHERE run_id = ? AND test_id = ? AND environment_key = ? ORDER BY number, started_at',
    ).all(of.runId, of.test.id, of.environment.key) as { id: string; number: number; outcome: Outcome }[];
  }

  /** The latest passing attempts of a test, newest first. */
  passingOf(test: string, limit: number): string[] {
    return prepared(
      this.db,
      "SELECT id FROM attempts WHERE test_id = ? AND outcome = 'passed' AND series_id IS NULL ORDER BY started_at DESC LIMIT ?",
    )
      .pluck()
      .all(test, limit) as string[];
  }

  /** The newest attempts that failed, of tests, analysed already. */
  failedLately(most: number): string[] {
    return prepared(
      this.db,
      "SELECT id FROM attempts WHERE state = 'ready' AND outcome IN ('failed', 'errored') AND series_id IS NULL ORDER BY started_at DESC LIMIT ?",
    )
      .pluck()
      .all(most) as string[];
  }

  /** The stacks of what failed in some runs, as they were told. */
  *stacksOf(runs: readonly string[]): Generator<ReadStack> {
    for (const run of runs)
      yield* prepared(
        this.db,
        `SELECT a.id AS attempt, t.title, a.stack, t.file FROM attempts a JOIN tests t ON t.id = a.test_id
         WHERE a.run_id = ? AND a.family_id IS NOT NULL AND a.stack <> '' LIMIT 2000`,
      ).iterate(run) as IterableIterator<ReadStack>;
  }

  ofRun(run: string): Attempt[] {
    return (
      this.db
        .prepare(`${select} WHERE a.run_id = ? ORDER BY t.suite, t.title, a.environment_key, a.number, a.started_at`)
        .all(run) as Row[]
    ).map(fromRow);
  }

  ofFamily(family: string, limit = 200): Attempt[] {
    return (
      this.db.prepare(`${select} WHERE a.family_id = ? ORDER BY a.started_at DESC LIMIT ?`).all(family, limit) as Row[]
    ).map(fromRow);
  }

  ofSeries(series: string): Attempt[] {
    return (this.db.prepare(`${select} WHERE a.series_id = ? ORDER BY a.number`).all(series) as Row[]).map(fromRow);
  }

  inState(state: AttemptState): string[] {
    return (this.db.prepare('SELECT id FROM attempts WHERE state = ?').all(state) as { id: string }[]).map(
      ({ id }) => id,
    );
  }

  /** The order in which some are judged: those that passed first, each in the order in which they ran. */
  judgingOrder(ids: readonly string[]): string[] {
    const one = prepared(this.db, 'SELECT outcome, started_at AS startedAt FROM attempts WHERE id = ?');
    const known = ids.flatMap((id) => {
      const row = one.get(id) as { outcome: Outcome; startedAt: number } | undefined;
      return row ? [{ id, later: row.outcome === 'passed' ? 0 : 1, startedAt: row.startedAt }] : [];
    });
    return known.sort((a, b) => a.later - b.later || a.startedAt - b.startedAt).map(({ id }) => id);
  }

  olderThanAnalysis(version: number): string[] {
    return (
      this.db.prepare("SELECT id FROM attempts WHERE state = 'ready' AND analysis_version < ?").all(version) as {
        id: string;
      }[]
    ).map(({ id }) => id);
  }

  outcome(id: string, outcome: Outcome, message: string, stack: string): void {
    this.db
      .prepare('UPDATE attempts SET outcome = ?, message = ?, stack = ? WHERE id = ?')
      .run(outcome, message, stack, id);
  }

  startedAt(id: string, at: number): void {
    prepared(this.db, 'UPDATE attempts SET started_at = ? WHERE id = ?').run(at, id);
  }

  lasted(id: string, durationMs: number): void {
    this.db.prepare('UPDATE attempts SET duration_ms = ? WHERE id = ?').run(durationMs, id);
  }

  setState(id: string, state: AttemptState): void {
    this.db.prepare('UPDATE attempts SET state = ? WHERE id = ?').run(state, id);
  }

  /** An analysis of these rules did not come to its end; it is not tried again before they change. */
  gaveUp(id: string, version: number): void {
    this.db
      .prepare("UPDATE attempts SET state = 'ready', analysis_version = ? WHERE id = ? AND state <> 'recording'")
      .run(version, id);
  }

  /** The recording is over. A told outcome stands; without one it is `interrupted`, or stays `unreported`. */
  end(id: string, durationMs: number, interruptedBy?: string): void {
    this.db
      .prepare(
        `UPDATE attempts SET state = 'settling', duration_ms = ?, interrupted_by = ?,
           outcome = CASE WHEN outcome = 'unreported' AND ? IS NOT NULL THEN 'interrupted' ELSE outcome END
         WHERE id = ? AND state = 'recording'`,
      )
      .run(durationMs, interruptedBy ?? null, interruptedBy ?? null, id);
  }

  /** Writes what the analysis found, in place of what an earlier one had. Called inside a transaction. */
  settle(id: string, analysis: Analysis, version: number): void {
    const { db } = this;
    const one = analysis.family && analysis.failure ? this.get(id) : undefined;
    const family =
      one &&
      (this.familyOfDrilled(one, analysis.family!.fingerprint) ??
        this.families.of(analysis.family!.fingerprint, one.test.id, analysis.failure!.sentence, one.startedAt));
    prepared(
      db,
      "UPDATE attempts SET failure = ?, family_id = ?, fingerprint = ?, analysis_version = ?, baseline = ?, ordinary = ?, why = ?, state = 'ready' WHERE id = ?",
    ).run(
      analysis.failure ? JSON.stringify(analysis.failure) : null,
      family ?? null,
      analysis.family?.fingerprint ?? null,
      version,
      analysis.baseline ?? 0,
      analysis.ordinary ?? 0,
      analysis.why ? JSON.stringify(analysis.why) : null,
      id,
    );
    prepared(db, 'DELETE FROM clues WHERE attempt_id = ?').run(id);
    const clue = prepared(
      db,
      'INSERT INTO clues (attempt_id, position, code, at, until, summary, strength, evidence) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
    );
    analysis.clues.forEach((c, i) =>
      clue.run(id, i, c.code, c.at, c.until ?? null, c.summary, c.strength, JSON.stringify(c.evidence)),
    );
    this.judge(id, analysis.clues, analysis);
  }

  /** What a failure is known by; null where it has none. */
  printOf(id: string): string | null {
    return (
      (prepared(this.db, 'SELECT fingerprint FROM attempts WHERE id = ?').pluck().get(id) as string | null) ?? null
    );
  }

  /** A trial that failed at the step at which the attempt failed that its drill was made from failed as that did. */
  private familyOfDrilled({ seriesId }: Attempt, print: string): string | undefined {
    if (!seriesId) return undefined;
    const source = prepared(
      this.db,
      `SELECT a.family_id AS family, a.fingerprint AS print FROM series s JOIN drills d ON d.id = s.drill_id
       JOIN attempts a ON a.id = d.attempt_id WHERE s.id = ?`,
    ).get(seriesId) as { family: string | null; print: string | null } | undefined;
    return source?.family && source.print && wordless(source.print) === wordless(print) ? source.family : undefined;
  }

  /** What stands behind the suspects of an attempt; undefined where nothing was found to. */
  why(id: string): Why | undefined {
    const kept = prepared(this.db, 'SELECT why FROM attempts WHERE id = ?').pluck().get(id) as
      string | null | undefined;
    return kept ? (JSON.parse(kept) as Why) : undefined;
  }

  /**
   * Writes what the clues of an attempt make likely, in place of what they did before.
   * @param clues those kept of the attempt, in their order
   */
  judge(id: string, clues: readonly Clue[], { suspects, undetermined }: Suspects): void {
    prepared(this.db, 'UPDATE attempts SET undetermined = ? WHERE id = ?').run(undetermined ? 1 : 0, id);
    prepared(this.db, 'DELETE FROM suspects WHERE attempt_id = ?').run(id);
    const suspect = prepared(
      this.db,
      'INSERT INTO suspects (attempt_id, position, cause, probability, pro, con) VALUES (?, ?, ?, ?, ?, ?)',
    );
    const places = (speaking: readonly Clue[]): string => JSON.stringify(speaking.map((c) => clues.indexOf(c)));
    suspects.forEach((s, i) => suspect.run(id, i, s.cause, s.probability, places(s.for), places(s.against)));
  }

  clues(id: string): Clue[] {
    const rows = this.db
      .prepare('SELECT code, at, until, summary, strength, evidence FROM clues WHERE attempt_id = ? ORDER BY position')
      .all(id) as (Omit<Clue, 'evidence' | 'until'> & {
      evidence: string;
      until: number | null;
    })[];
    return rows.map(({ until, evidence, ...clue }) => ({
      ...clue,
      ...(until === null ? {} : { until }),
      evidence: JSON.parse(evidence) as string[],
    }));
  }

  suspects(id: string): Suspect[] {
    const clues = this.clues(id);
    const rows = this.db
      .prepare('SELECT cause, probability, pro, con FROM suspects WHERE attempt_id = ? ORDER BY position')
      .all(id) as { cause: CauseCode; probability: number; pro: string; con: string }[];
    const at = (list: string): Clue[] => (JSON.parse(list) as number[]).flatMap((i) => clues[i] ?? []);
    return rows.map(({ cause, probability, pro, con }) => ({ cause, probability, for: at(pro), against: at(con) }));
  }
}
