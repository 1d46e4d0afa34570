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
    for (const { body } of read(db, within, 'DESC', newest, firstRead).reverse())
      kept.ordinary.take(JSON.parse(body) as Sketch);
  }
  for (;;) {
    const rows = read(db, 's.rowid > ?', 'ASC', kept.last, mostAtOnce);
    for (const { body } of rows) kept.ordinary.take(JSON.parse(body) as Sketch);
    kept.last = rows.at(-1)?.row ?? kept.last;
    if (rows.length < mostAtOnce) return kept.ordinary;
  }
}

const read = (
  db: Database.Database,
  where: string,
  order: 'ASC' | 'DESC',
  from: number,
  most: number,
): { row: number; body: string }[] =>
  prepared(
    db,
    `SELECT s.rowid AS row, s.body FROM sketches s JOIN attempts a ON a.id = s.attempt_id
     WHERE ${where} AND s.version = ${sketchVersion} AND a.outcome = 'passed' AND a.state = 'ready'
       AND a.undetermined = 1 AND a.series_id IS NULL
     ORDER BY s.rowid ${order} LIMIT ?`,
  ).all(from, most) as { row: number; body: string }[];
