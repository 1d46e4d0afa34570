import type Database from 'better-sqlite3';
import type { Side } from '../../core/trials/proof.ts';
import type { Phase } from '../../core/trials/search.ts';
import type { Stressor } from '../../core/trials/stressor.ts';
import type { Verdict } from '../../core/trials/tally.ts';
import { prepared } from './prepared.ts';

/** One trial of a series, as it was begun and as it ended. */
export interface StoredTrial {
  number: number;
  stressors: Stressor[];
  phase: Phase | Side | null;
  why: string | null;
  place: string | null;
  attemptId: string | null;
  verdict: Verdict;
  beganAt: number;
  /** How long each line of the drill took, ms, where that is of use. */
  lineTimes: number[] | null;
}

/** Trials of series: kept from the moment they begin. */
export class Trials {
  constructor(private readonly db: Database.Database) {}

  begin(
    series: string,
    trial: Pick<StoredTrial, 'number' | 'stressors'> & { phase?: Phase | Side; why?: string; place: string },
  ): void {
    const { number, stressors, phase, why, place } = trial;
    prepared(
      this.db,
      'INSERT INTO trials (series_id, number, stressors, phase, why, place, began_at) VALUES (?, ?, ?, ?, ?, ?, ?)',
    ).run(series, number, JSON.stringify(stressors), phase ?? null, why ?? null, place, Date.now());
  }

  end(series: string, number: number, verdict: Verdict, attemptId: string | null, lineTimes?: number[]): void {
    prepared(
      this.db,
      'UPDATE trials SET verdict = ?, attempt_id = ?, line_ms = ? WHERE series_id = ? AND number = ?',
    ).run(verdict, attemptId, lineTimes ? JSON.stringify(lineTimes.map(Math.round)) : null, series, number);
  }

  of(series: string): StoredTrial[] {
    const rows = prepared(
      this.db,
      'SELECT number, stressors, phase, why, place, attempt_id AS attemptId, verdict, began_at AS beganAt, line_ms AS lineTimes FROM trials WHERE series_id = ? ORDER BY number',
    ).all(series) as (Omit<StoredTrial, 'stressors' | 'lineTimes'> & { stressors: string; lineTimes: string | null })[];
    return rows.map((row) => ({
      ...row,
      stressors: JSON.parse(row.stressors) as Stressor[],
      lineTimes: row.lineTimes === null ? null : (JSON.parse(row.lineTimes) as number[]),
    }));
  }

  /** Trials of a search that say something of what is searched. */
  tried(series: string): StoredTrial[] {
    return this.of(series).filter(({ phase }) => phase !== 'fitting');
  }

  /** A trial showed where its drill came too soon. */
  fitting(series: string, number: number, why: string): void {
    prepared(this.db, "UPDATE trials SET phase = 'fitting', why = ? WHERE series_id = ? AND number = ?").run(
      why,
      series,
      number,
    );
  }

  /** All trials so far were of a drill that has been changed since. */
  allFitting(series: string): void {
    prepared(this.db, "UPDATE trials SET phase = 'fitting' WHERE series_id = ?").run(series);
  }

  /**
   * Trials of the drills made from an attempt that passed as they are, the newest first. What passed under a stressor
   * passed by luck, and what passed with a remedy is another drill: neither shows what is usual.
   */
  passedOf(attempt: string, limit: number): string[] {
    return prepared(
      this.db,
      `SELECT trials.attempt_id FROM trials JOIN series ON series.id = series_id JOIN drills ON drills.id = drill_id
       WHERE drills.attempt_id = ? AND verdict = 'passed' AND trials.attempt_id IS NOT NULL
         AND trials.stressors = '[]' AND proof IS NULL
       ORDER BY began_at DESC LIMIT ?`,
    )
      .pluck()
      .all(attempt, limit) as string[];
  }

  /** Trials that were being played when a server ended: nobody knows how they would have ended. */
  loseUnfinished(): void {
    prepared(this.db, "UPDATE trials SET verdict = 'lost' WHERE verdict = 'pending'").run();
  }
}
