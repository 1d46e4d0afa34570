import type Database from 'better-sqlite3';
import { untoldBrowser } from '../../core/evidence/attempt.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { partOf } from '../../core/placing/part-of.ts';
import type { Recorded, Reported } from '../../core/placing/told-later.ts';
import type { Attempt, AttemptLabels, MayBe } from '../../core/records.ts';
import { newId, type Attempts } from './attempts.ts';
import type { Events } from './events.ts';
import type { Intakes } from './intakes.ts';
import type { Runs } from './runs.ts';
import { prepared } from './prepared.ts';

/** What of an attempt's labels is of whoever told it, not of the recording. */
const ofTheTeller = ['tags', 'worker', 'shard', 'properties', 'untimed', 'summed', 'zone', 'told'] as const;
/** The clock of what a report says that a test wrote. */
const reportClock = 'report';
/** More recordings than this are not held against one report. */
const most = 20_000;
const dayMs = 86_400_000;
const mostNear = 60;

/** Attempts that were recorded, and what reports tell of them later. */
export class ToldLaterStore {
  constructor(
    private readonly db: Database.Database,
    private readonly runs: Runs,
    private readonly attempts: Attempts,
    private readonly events: Events,
    private readonly intakes: Intakes,
  ) {}

  /** Recorded attempts that nobody told of, that began in a time. */
  untold(from: number, until: number): (Recorded & { run: string })[] {
    return prepared(
      this.db,
      `SELECT a.id, a.run_id AS run, t.title, a.started_at AS "from", a.started_at + a.duration_ms AS "until" FROM attempts a JOIN tests t ON t.id = a.test_id
       WHERE a.outcome = 'unreported' AND a.source = 'recorded' AND a.series_id IS NULL AND a.state <> 'recording'
         AND a.started_at BETWEEN ? AND ? AND json_extract(a.labels, '$.told') IS NULL ORDER BY a.started_at LIMIT ${most}`,
    ).all(from, until) as (Recorded & { run: string })[];
  }

  /** Attempts that a delivery's reports told of, without a recording of their own, in their order. */
  reportedBy(intake: string): Reported[] {
    return this.reported('a.intake_id = ?', intake);
  }

  /** Attempts that reports of earlier deliveries told of and nothing was laid beside. */
  reportedAround(from: number, until: number): Reported[] {
    const bare = 'NOT EXISTS (SELECT 1 FROM files f WHERE f.attempt_id = a.id)';
    return this.reported(`a.run_id IN (SELECT id FROM runs WHERE started_at BETWEEN ? AND ?) AND ${bare}`, from, until);
  }

  private reported(where: string, ...given: unknown[]): Reported[] {
    const rows = prepared(
      this.db,
      `SELECT a.id, t.title, a.started_at AS "from", a.started_at + a.duration_ms AS "until",
         coalesce(json_extract(a.labels, '$.untimed'), 0) = 0 AS timed, json_type(a.labels, '$.zone') = 'null' AS unzoned
       FROM attempts a JOIN tests t ON t.id = a.test_id
       WHERE ${where} AND a.source = 'imported' AND a.outcome <> 'skipped' AND json_extract(a.labels, '$.told') IS NULL ORDER BY a.rowid LIMIT ${most}`,
    ).all(...given) as (Omit<Reported, 'timed' | 'unzoned'> & { timed: number; unzoned: number | null })[];
    return rows.map((row) => ({ ...row, timed: row.timed === 1, unzoned: row.unzoned === 1 }));
  }

  /** Whether an attempt has what only a browser tells: elements, or requests. */
  hasSeenThePage(id: string): boolean {
    return (
      prepared(
        this.db,
        "SELECT 1 FROM events WHERE attempt_id = ? AND lane IN ('element', 'network') AND derived = 0 LIMIT 1",
      ).get(id) !== undefined
    );
  }

  /** Attempts that reports told of near the time of a recorded one, the nearest first: what it might be instead. */
  near({ id, startedAt }: Attempt): MayBe[] {
    return prepared(
      this.db,
      `SELECT a.id, t.suite, t.title, a.number, a.outcome, a.started_at AS startedAt, r.name AS run
       FROM attempts a JOIN tests t ON t.id = a.test_id JOIN runs r ON r.id = a.run_id
       WHERE r.started_at BETWEEN ? AND ? AND r.kind = 'tests' AND a.id <> ?
         AND a.outcome <> 'unreported' AND (a.source = 'imported' OR json_extract(a.labels, '$.told') IS NOT NULL)
       ORDER BY abs(a.started_at - ?) LIMIT ${mostNear}`,
    ).all(startedAt - dayMs, startedAt + dayMs, id, startedAt) as MayBe[];
  }

  /**
   * A recorded attempt becomes the one that a report tells of: in its run, under its name, with its outcome and what the
   * test wrote. Called inside a transaction.
   * @param intake the delivery by which it does, whose undoing puts back what was; null where none does
   */
  adopt(intake: string | null, recordedId: string, reportedId: string, by: string, why: string): void {
    const [recorded, reported] = [this.attempts.get(recordedId)!, this.attempts.get(reportedId)!];
    const wrote = this.written(reported, recorded);
    if (intake !== null) {
      this.intakes.touches(intake, recordedId);
      this.intakes.adds(intake, recordedId, wrote);
    }
    const { suite, title } = recorded.test;
    this.set(recordedId, reported, {
      ...taken(recorded.labels, reported.labels),
      told: { by, why, was: { suite, title } },
    });
    this.events.write(recordedId, wrote);
    prepared(this.db, 'DELETE FROM attempts WHERE id = ?').run(reportedId);
    this.runs.moved(recorded.runId);
  }

  /**
   * A browser that stayed up for one test after the other: each attempt that a report tells of gets its part of what was
   * recorded. The recording stays as it is, and says so. Called inside a transaction.
   * @param parts with their times on the recording's clock, ms since the epoch
   */
  shareOut(
    intake: string | null,
    recordedId: string,
    parts: readonly { reported: string; from: number; until: number }[],
    by: string,
  ): void {
    const recorded = this.attempts.get(recordedId)!;
    const events = this.events.recorded(recordedId);
    const { suite, title } = recorded.test;
    const was = { suite, title };
    const alone = parts.length === 1;
    for (const { reported, from, until } of parts) {
      const part = partOf(events, from - recorded.startedAt, until - recorded.startedAt);
      const own = this.attempts.get(reported)!;
      if (intake !== null) this.intakes.touches(intake, reported);
      if (intake !== null) this.intakes.adds(intake, reported, part);
      this.events.write(reported, part);
      const { key, ...environment } = recorded.environment;
      // What a reporter says of the browser stands.
      if (own.source !== 'streamed' || own.environment.browser === untoldBrowser)
        prepared(this.db, 'UPDATE attempts SET environment = ?, environment_key = ? WHERE id = ?').run(
          JSON.stringify(environment),
          key,
          reported,
        );
      const why = alone
        ? 'it was recorded when this test ran, and when no other did'
        : `its time is a part of ${recordedId}, in which the browser stayed up for ${parts.length} tests`;
      this.label(reported, { ...own.labels, told: { by, why, was, recording: recordedId } });
    }
    if (intake !== null) this.intakes.touches(intake, recordedId);
    const why = alone
      ? 'it is the evidence of the test now'
      : `it was shared out among the ${parts.length} tests that ran in it`;
    this.label(recordedId, { ...recorded.labels, told: { by, why, was } });
  }

  /** A test that was given a recording, or a part of one, has none of it any more. Called inside a transaction. */
  giveBack(one: Attempt): void {
    const { told, ...labels } = one.labels;
    const recording = told?.recording === undefined ? undefined : this.attempts.get(told.recording);
    if (!recording) return;
    prepared(
      this.db,
      'DELETE FROM events WHERE attempt_id = ? AND id IN (SELECT id FROM events WHERE attempt_id = ? AND derived = 0)',
    ).run(one.id, recording.id);
    this.label(one.id, labels);
    const others = prepared(
      this.db,
      `SELECT 1 FROM attempts WHERE run_id = ? AND started_at BETWEEN ? AND ? AND json_extract(labels, '$.told.recording') = ? LIMIT 1`,
    ).get(one.runId, recording.startedAt - dayMs, recording.startedAt + recording.durationMs + dayMs, recording.id);
    if (others) return;
    const { told: _, ...own } = recording.labels;
    this.label(recording.id, own);
  }

  /** Two attempts of a run exchange what was told of them. Called inside a transaction. */
  exchange(a: Attempt, b: Attempt, why: string): void {
    const [toB, toA] = [this.written(a, b), this.written(b, a)];
    for (const { id } of [a, b]) this.events.removeClock(id, reportClock);
    this.set(a.id, b, this.withTold(taken(a.labels, b.labels), a, why));
    this.set(b.id, a, this.withTold(taken(b.labels, a.labels), b, why));
    this.events.write(a.id, toA);
    this.events.write(b.id, toB);
  }

  /**
   * What was told of a recorded attempt is of another that nobody recorded. Called inside a transaction.
   * @returns that other
   */
  release(one: Attempt): string {
    const id = newId('a');
    const { told, ...labels } = one.labels;
    prepared(
      this.db,
      `INSERT INTO attempts (id, run_id, test_id, number, outcome, state, environment, environment_key, started_at, duration_ms, message, stack, labels, source)
       SELECT ?, run_id, test_id, number, outcome, 'ready', environment, environment_key, started_at, duration_ms, message, stack, ?, 'imported' FROM attempts WHERE id = ?`,
    ).run(id, JSON.stringify(taken({}, labels)), one.id);
    this.events.write(id, this.written(one, one));
    this.events.removeClock(one.id, reportClock);
    this.attempts.rename(one.id, told?.was ?? one.test);
    this.attempts.outcome(one.id, 'unreported', '', '');
    this.label(one.id, taken(labels, {}));
    return id;
  }

  private set(id: string, { runId, test, number, outcome, message, stack }: Attempt, labels: AttemptLabels): void {
    prepared(this.db, 'UPDATE attempts SET run_id = ?, test_id = ?, number = ? WHERE id = ?').run(
      runId,
      test.id,
      number,
      id,
    );
    this.attempts.outcome(id, outcome, message, stack);
    this.label(id, labels);
  }

  private label(id: string, labels: AttemptLabels): void {
    prepared(this.db, 'UPDATE attempts SET labels = ? WHERE id = ?').run(JSON.stringify(labels), id);
  }

  /** A recording keeps what it was called before anybody told, and who did. */
  private withTold(
    { told: _, ...labels }: AttemptLabels,
    { source, labels: own, test }: Attempt,
    why: string,
  ): AttemptLabels {
    if (source === 'imported') return labels;
    const { by, was } = own.told ?? { by: 'hand', was: { suite: test.suite, title: test.title } };
    return { ...labels, told: { by, why, was } };
  }

  /** What a report says that a test wrote, on the clock of another attempt. */
  private written(from: Attempt, to: Attempt): EvidenceEvent[] {
    const by = from.startedAt - to.startedAt;
    return this.events
      .recorded(from.id)
      .filter(({ clock }) => clock === reportClock)
      .map((one) => ({
        ...one,
        at: Math.max(0, one.at + by),
        ...(one.until === undefined ? {} : { until: Math.max(0, one.until + by) }),
      }));
  }
}

/** An attempt's own labels with what another's teller said. */
function taken(own: AttemptLabels, theirs: AttemptLabels): AttemptLabels {
  const out: Record<string, unknown> = { ...own };
  for (const key of ofTheTeller) {
    delete out[key];
    if (theirs[key] !== undefined) out[key] = theirs[key];
  }
  return out as AttemptLabels;
}
