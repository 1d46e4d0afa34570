import type Database from 'better-sqlite3';
import type { Sketch } from '../../core/contrast/sketch.ts';
import { sketchVersion } from '../../core/contrast/sketch.ts';
import { Ordinary } from '../../core/ordinary/ordinary.ts';
import { prepared } from './prepared.ts';

/** How many attempts are read when what is ordinary is first asked for. */
const firstRead = 600;
/** Where most are of another kind, no more sketches than this are looked through for them. */
const lookedBack = 20_000;
/** Most that are read at one time afterwards. */
const mostAtOnce = 200;

interface Kept {
  ordinary: Ordinary;
  /** The sketch that was read last: one that is drawn anew is a new row. */
  last: number;
}

const keptOf = new WeakMap<Database.Database, Kept>();

/**
 * What is ordinary in a workspace, by the attempts that passed without doubt. Kept in memory by whoever asks, filled
 * with the latest attempts at first and with what came since each time after.
 */
export function ordinaryOf(db: Database.Database): Ordinary {
  let kept = keptOf.get(db);
  if (!kept) {
    const newest = prepared(db, 'SELECT coalesce(max(rowid), 0) FROM sketches').pluck().get() as number;
    keptOf.set(db, (kept = { ordinary: new Ordinary(), last: newest }));
    const within = `s.rowid > ${newest - lookedBack} AND s.rowid <= ?`;
    takeAll(db, kept.ordinary, rowsOf(db, within, 'DESC', newest, firstRead).reverse());
  }
  for (;;) {
    const rows = rowsOf(db, 's.rowid > ?', 'ASC', kept.last, mostAtOnce);
    takeAll(db, kept.ordinary, rows);
    kept.last = rows.at(-1) ?? kept.last;
    if (rows.length < mostAtOnce) return kept.ordinary;
  }
}

/** One after the other: sketches of attempts with thousands of requests take a megabyte each. */
function takeAll(db: Database.Database, ordinary: Ordinary, rows: readonly number[]): void {
  const body = prepared(db, 'SELECT body FROM sketches WHERE rowid = ?').pluck();
  for (const row of rows) {
    const text = body.get(row) as string | undefined;
    // It may have been let go of meanwhile.
    if (text !== undefined) ordinary.take(JSON.parse(text) as Sketch);
  }
}

const rowsOf = (db: Database.Database, where: string, order: 'ASC' | 'DESC', from: number, most: number): number[] =>
  prepared(
    db,
    `SELECT s.rowid FROM sketches s JOIN attempts a ON a.id = s.attempt_id
     WHERE ${where} AND s.version = ${sketchVersion} AND a.outcome = 'passed' AND a.state = 'ready'
       AND a.undetermined = 1 AND a.series_id IS NULL
     ORDER BY s.rowid ${order} LIMIT ?`,
  )
    .pluck()
    .all(from, most) as number[];
