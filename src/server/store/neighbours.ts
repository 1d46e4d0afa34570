import type Database from 'better-sqlite3';
import type { Neighbours } from '../../core/contrast/sketch.ts';
import { prepared } from './prepared.ts';

/** Most attempts that ran beside one that are told. */
const mostBeside = 24;
/** Nothing runs longer than this beside another one, ms; what began before is not looked at. */
const longestMs = 30 * 60_000;

/**
 * What ran beside an attempt, and right before it in the same worker, in the same run.
 * @returns undefined when its source told no times, so that nobody can know
 */
export function neighboursOf(db: Database.Database, id: string): Neighbours | undefined {
  const own = prepared(
    db,
    'SELECT run_id AS run, test_id AS test, started_at AS start, duration_ms AS ms, labels, environment_key AS place FROM attempts WHERE id = ?',
  ).get(id) as { run: string; test: string; start: number; ms: number; labels: string; place: string } | undefined;
  const labels = own && (JSON.parse(own.labels) as { untimed?: boolean; summed?: string; worker?: string });
  if (!own || labels!.untimed || labels!.summed) return undefined;
  const beside = prepared(
    db,
    `SELECT DISTINCT t.title FROM attempts a JOIN tests t ON t.id = a.test_id
     WHERE a.run_id = ? AND a.started_at > ? AND a.started_at < ? AND (a.started_at + a.duration_ms > ? OR a.state = 'recording')
       AND a.id <> ? AND a.test_id <> ? AND a.series_id IS NULL
     ORDER BY a.started_at LIMIT ${mostBeside}`,
  )
    .pluck()
    .all(own.run, own.start - longestMs, own.start + own.ms, own.start, id, own.test) as string[];
  const after = prepared(
    db,
    `SELECT t.title FROM attempts a JOIN tests t ON t.id = a.test_id
     WHERE a.run_id = ? AND a.started_at > ? AND a.started_at < ? AND a.started_at + a.duration_ms <= ?
       AND a.environment_key = ? AND a.series_id IS NULL AND coalesce(a.labels ->> 'worker', '') = ?
     ORDER BY a.started_at DESC LIMIT 1`,
  )
    .pluck()
    .get(own.run, own.start - longestMs, own.start, own.start, own.place, labels!.worker ?? '') as string | undefined;
  return { beside, ...(after === undefined ? {} : { after }) };
}
