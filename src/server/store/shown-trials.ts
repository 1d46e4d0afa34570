import type Database from 'better-sqlite3';
import { bodiless } from '../../core/families/fingerprint.ts';
import type { SearchKept } from '../../core/records.ts';
import { shownBy, type Shown } from '../../core/trials/shown.ts';
import { prepared } from './prepared.ts';
import { Trials } from './trials.ts';

/** What a search has shown, and where it stands. */
export interface ShownTrials {
  drillId: string;
  seriesId: string;
  shown: Shown;
}

/**
 * What the newest search has shown of a failure: one played with a drill of this attempt, or of another of the same test
 * that failed the same way.
 */
export function shownTrials(
  db: Database.Database,
  attempt: string,
  test: string,
  print: string | null,
): ShownTrials | undefined {
  const row = prepared(
    db,
    `SELECT series.id AS seriesId, drills.id AS drillId, series.search FROM series
     JOIN drills ON drills.id = series.drill_id JOIN attempts ON attempts.id = drills.attempt_id
     WHERE series.search IS NOT NULL AND series.state = 'done'
       AND (attempts.id = ? OR (attempts.test_id = ? AND attempts.fingerprint IN (?, ?)))
     ORDER BY series.created_at DESC LIMIT 1`,
  ).get(attempt, test, print, print === null ? null : bodiless(print)) as
    { seriesId: string; drillId: string; search: string } | undefined;
  const plan = row && (JSON.parse(row.search) as SearchKept).plan;
  if (!row || !plan) return undefined;
  const { seriesId, drillId } = row;
  return { seriesId, drillId, shown: shownBy(plan, new Trials(db).tried(seriesId)) };
}
