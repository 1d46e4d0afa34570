import type Database from 'better-sqlite3';
import { sketchVersion, type Sketch } from '../../core/contrast/sketch.ts';
import { readinessOf, readinessOfPage, type PageReadiness } from '../../core/readiness/readiness.ts';
import { prepared } from './prepared.ts';

/** By so many passing attempts, the latest, of at most so many of one test. */
const mostAttempts = 600;
const mostOfTest = 20;
/** Looked through for them. */
const lookedBack = 3000;

interface Kept {
  newest: number;
  pages: PageReadiness[];
}
const keptOf = new WeakMap<Database.Database, Kept>();

/** When the pages of the application are ready, by what passing attempts of all tests saw. Kept until another settles. For threads. */
export function readinessKept(db: Database.Database): PageReadiness[] {
  const newest = prepared(db, 'SELECT coalesce(max(rowid), 0) FROM sketches').pluck().get() as number;
  const kept = keptOf.get(db);
  if (kept?.newest === newest) return kept.pages;
  const rows = prepared(
    db,
    `SELECT s.test_id AS test, s.body FROM sketches s JOIN attempts a ON a.id = s.attempt_id
     WHERE s.rowid > ? AND s.version = ${sketchVersion} AND a.outcome = 'passed' AND a.state = 'ready' AND a.undetermined = 1
       AND a.series_id IS NULL ORDER BY s.rowid DESC`,
  ).iterate(newest - lookedBack) as IterableIterator<{ test: string; body: string }>;
  const counts = new Map<string, number>();
  const attempts: { test: string; sketch: Sketch }[] = [];
  for (const { test, body } of rows) {
    const count = counts.get(test) ?? 0;
    if (count >= mostOfTest) continue;
    counts.set(test, count + 1);
    attempts.push({ test, sketch: JSON.parse(body) as Sketch });
    if (attempts.length >= mostAttempts) break;
  }
  const pages = readinessOf(attempts);
  keptOf.set(db, { newest, pages });
  return pages;
}

/** The same of the page that an attempt ended at. */
export function readinessWhereEnded(db: Database.Database, sketch: Sketch | undefined): PageReadiness | undefined {
  const failed = sketch?.steps.findLast(({ error }) => error !== undefined);
  return readinessOfPage(readinessKept(db), (failed ?? sketch?.steps.at(-1))?.page);
}
