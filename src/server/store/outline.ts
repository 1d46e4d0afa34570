import type Database from 'better-sqlite3';
import type { Lane } from '../../core/evidence/event.ts';
import { mostWhole, longMs, poleOf, type StopLane } from '../../core/scaffold/crowd.ts';
import { prepared } from './prepared.ts';

/**
 * What the bench needs first of an attempt, as JSON text: all events of a small one; of a large one
 * the times of everything, and only those events that bear on the whole of it. Event data is handed
 * through as it is stored, neither parsed nor written again.
 */
export function outlineJson(db: Database.Database, attempt: string, also: readonly string[]): string {
  const rows = prepared(db, 'SELECT id, lane, kind, at, until, clock FROM events WHERE attempt_id = ?')
    .raw()
    .all(attempt) as [string, Lane, string, number, number | null, string][];
  const until = rows.reduce((latest, [, , , at, end]) => Math.max(latest, end ?? at), 0);
  const whole = rows.length <= mostWhole;
  const wanted = new Set<string>(also);
  const stops: Partial<Record<StopLane, number[]>> = {};
  if (!whole) {
    const left = new Map<string, number>(Object.entries(mostOf));
    rows.sort((a, b) => a[3] - b[3]);
    for (const [id, lane, kind, at, end] of rows) {
      const pole = poleOf(lane, kind);
      if (pole) (stops[pole] ??= []).push(Math.round(at * 10) / 10);
      const why = reason(lane, kind, end === null ? 0 : end - at);
      const rest = why ? left.get(why)! : 0;
      if (rest <= 0) continue;
      left.set(why!, rest - 1);
      wanted.add(id);
    }
  }
  const select = prepared(db, 'SELECT data FROM events WHERE attempt_id = ? AND id = ?').pluck();
  const events = rows
    .filter(([id]) => whole || wanted.has(id))
    .map((row) => eventText(row, select.get(attempt, row[0]) as string));
  return `{"total":${rows.length},"until":${until},"whole":${whole},"stops":${JSON.stringify(stops)},"events":[${events.join(',')}]}`;
}

/** Of a large attempt, how many events of each kind that bears on the whole are sent at once. */
const mostOf = { long: 600, page: 600, window: 300, screen: 500, note: 200, exception: 200, element: 1200 };

function reason(lane: Lane, kind: string, length: number): keyof typeof mostOf | undefined {
  if (lane === 'element') return kind === 'moved' ? undefined : 'element';
  if (length >= longMs) return 'long';
  if (lane === 'page') return kind === 'mutations' || kind === 'layout-shift' || kind === 'focus' ? undefined : 'page';
  if (lane === 'window' || lane === 'screen' || lane === 'note') return lane;
  return kind === 'exception' ? 'exception' : undefined;
}

function eventText(
  [id, lane, kind, at, until, clock]: readonly [string, string, string, number, number | null, string],
  data: string,
): string {
  return `{"id":${JSON.stringify(id)},"lane":"${lane}","kind":${JSON.stringify(kind)},"at":${at}${until === null ? '' : `,"until":${until}`},"clock":${JSON.stringify(clock)},"data":${data}}`;
}

/** The events of a stretch of time: those that begin in it, and those not longer than `longMs` that reach into it. */
export function stretchJson(db: Database.Database, attempt: string, from: number, until: number, most: number): string {
  const rows = prepared(
    db,
    'SELECT id, lane, kind, at, until, clock, data FROM events WHERE attempt_id = ? AND at >= ? AND at <= ? AND coalesce(until, at) >= ? ORDER BY at, id LIMIT ?',
  )
    .raw()
    .all(attempt, from - longMs, until, from, most + 1) as [
    string,
    string,
    string,
    number,
    number | null,
    string,
    string,
  ][];
  const events = rows.slice(0, most).map((row) => eventText([row[0], row[1], row[2], row[3], row[4], row[5]], row[6]));
  return `{"more":${rows.length > most},"events":[${events.join(',')}]}`;
}
