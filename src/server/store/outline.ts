import type Database from 'better-sqlite3';
import { longMs, mostWhole } from '../../core/scaffold/crowd.ts';
import { prepared } from './prepared.ts';

/**
 * What the bench needs first of an attempt, as JSON text: all events of a small one; of a large one
 * the times of everything by pole, in no order, and only those events that bear on the whole of it.
 * The text is put together by the database: event data is neither parsed nor written again.
 */
export function outlineJson(db: Database.Database, attempt: string, also: readonly string[]): string {
  const { total, until } = prepared(
    db,
    `SELECT count(*) AS total, coalesce(max(coalesce(until, at)), 0) AS until FROM events WHERE attempt_id = ? AND ${shown}`,
  ).get(attempt) as { total: number; until: number };
  const head = `"total":${total},"until":${until}`;
  if (total <= mostWhole) {
    const rows = prepared(db, `SELECT ${columns} FROM events WHERE attempt_id = ? AND ${shown}`)
      .raw()
      .all(attempt) as Row[];
    return `{${head},"whole":true,"stops":{},"events":[${rows.map(eventText).join(',')}]}`;
  }
  const rows = new Map<string, Row>();
  for (const { where, most } of bearing)
    for (const row of prepared(db, `SELECT ${columns} FROM events WHERE attempt_id = ? AND ${where} LIMIT ${most}`)
      .raw()
      .all(attempt) as Row[])
      rows.set(row[0], row);
  const one = prepared(db, `SELECT ${columns} FROM events WHERE attempt_id = ? AND id = ?`).raw();
  for (const id of also) {
    const row = rows.has(id) ? undefined : (one.get(attempt, id) as Row | undefined);
    if (row) rows.set(id, row);
  }
  const events = [...rows.values()].sort((a, b) => a[3] - b[3]).map(eventText);
  return `{${head},"whole":false,"stops":${stopsText(db, attempt)},"events":[${events.join(',')}]}`;
}

/** Start times by pole; see `poleOf`. */
function stopsText(db: Database.Database, attempt: string): string {
  const lanes = prepared(
    db,
    `SELECT CASE WHEN kind = 'exception' THEN kind ELSE lane END AS pole, group_concat(round(at, 1)) FROM events
     WHERE attempt_id = ? AND ${shown} AND NOT (lane = 'element' AND kind = 'moved') GROUP BY pole`,
  )
    .raw()
    .all(attempt) as [string, string][];
  return `{${lanes.map(([pole, times]) => `"${pole}":[${times}]`).join(',')}}`;
}

/** Which events of a large attempt are sent at once, and how many of each kind at most. */
const bearing: readonly { where: string; most: number }[] = [
  {
    where: `(until - at >= ${longMs} OR lane IN ('window', 'screen', 'note') OR kind = 'exception'
      OR (lane = 'page' AND kind NOT IN ('mutations', 'layout-shift', 'focus')))`,
    most: 2000,
  },
  { where: "lane = 'element' AND kind <> 'moved' ORDER BY at, id", most: 1200 },
];

/** What went with a request is asked for when somebody looks at that request. */
const shown = "lane <> 'body'";

const columns = 'id, lane, kind, at, until, clock, data';
type Row = [id: string, lane: string, kind: string, at: number, until: number | null, clock: string, data: string];

function eventText([id, lane, kind, at, until, clock, data]: Row): string {
  return `{"id":${JSON.stringify(id)},"lane":"${lane}","kind":${JSON.stringify(kind)},"at":${at}${until === null ? '' : `,"until":${until}`},"clock":${JSON.stringify(clock)},"data":${data}}`;
}

/** The events of a stretch of time: those that begin in it, and those not longer than `longMs` that reach into it. */
export function stretchJson(db: Database.Database, attempt: string, from: number, until: number, most: number): string {
  const rows = prepared(
    db,
    `SELECT ${columns} FROM events WHERE attempt_id = ? AND ${shown} AND at >= ? AND at <= ? AND coalesce(until, at) >= ? ORDER BY at, id LIMIT ?`,
  )
    .raw()
    .all(attempt, from - longMs, until, from, most + 1) as Row[];
  return `{"more":${rows.length > most},"events":[${rows.slice(0, most).map(eventText).join(',')}]}`;
}
