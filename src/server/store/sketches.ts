import { bodiless } from '../../core/families/fingerprint.ts';
import type Database from 'better-sqlite3';
import { sketchVersion, type Sketch } from '../../core/contrast/sketch.ts';
import { prepared } from './prepared.ts';

/** Of so many passing attempts of a test each tells more: what a target waits for is known from three. */
const eachTells = 4;

/** Most passing attempts that one is held against: of its own environment, and of others. */
export const baselineMost = { own: 16, others: 8 } as const;

/** Most attempts of its family that one is looked at together with. */
export const kinMost = 8;

/** Most attempts, the latest, that are looked at for ones to be judged anew. */
const lookedBack = 400;
/** So many that failed alike say something together that each could not. */
const togetherFrom = 3;

/** Passing attempts without doubt, of one test. */
const passing = (columns: string): string => `SELECT ${columns} FROM sketches s JOIN attempts a ON a.id = s.attempt_id
  WHERE s.test_id = ? AND s.version = ${sketchVersion} AND a.id <> ? AND a.outcome = 'passed' AND a.state = 'ready'
    AND a.undetermined = 1 AND a.series_id IS NULL`;

/** Sketches of attempts, and the passing ones that an attempt is held against. */
export class Sketches {
  constructor(private readonly db: Database.Database) {}

  put(attempt: string, test: string, sketch: Sketch): void {
    prepared(this.db, 'INSERT OR REPLACE INTO sketches (attempt_id, test_id, version, body) VALUES (?, ?, ?, ?)').run(
      attempt,
      test,
      sketchVersion,
      JSON.stringify(sketch),
    );
  }

  /** The newest passing attempts of a test: most from the same environment, some from others. */
  baseline(test: string, except: string, environmentKey: string): Sketch[] {
    const own = this.bodies(
      `${passing('s.body')} AND a.environment_key = ? ORDER BY a.started_at DESC LIMIT ${baselineMost.own}`,
      test,
      except,
      environmentKey,
    );
    const others = this.bodies(
      `${passing('s.body')} AND a.environment_key <> ? ORDER BY a.started_at DESC LIMIT ${baselineMost.others}`,
      test,
      except,
      environmentKey,
    );
    return [...own, ...others];
  }

  /** Others of a test that failed in one way, the newest first; also those that older rules told no test's body of. */
  failingAs(print: string, test: string, except: string): Sketch[] {
    return this.bodies(
      // By its test, which has few attempts; a family may have all of a run's.
      `SELECT s.body FROM attempts a INDEXED BY attempts_by_test JOIN sketches s ON s.attempt_id = a.id
       WHERE a.test_id = ? AND a.fingerprint IN (?, ?) AND a.id <> ? AND s.version = ${sketchVersion} AND a.series_id IS NULL
       ORDER BY a.started_at DESC LIMIT ${kinMost}`,
      test,
      print,
      bodiless(print),
      except,
    );
  }

  /** Ids of kept passing attempts of a test, in one environment or in all, the newest first. */
  baselineIds(test: string, except: string, environmentKey: string | undefined, most: number): string[] {
    const sql = `${passing('s.attempt_id')} AND NOT EXISTS (SELECT 1 FROM kept k WHERE k.attempt_id = a.id AND k.level = 0)`;
    const values = environmentKey === undefined ? [test, except] : [test, except, environmentKey];
    return prepared(
      this.db,
      `${sql}${environmentKey === undefined ? '' : ' AND a.environment_key = ?'} ORDER BY a.started_at DESC LIMIT ${most}`,
    )
      .pluck()
      .all(...values) as string[];
  }

  /** Sketches by id, in the order asked for; those that are not kept, or older than today's form, are left out. */
  of(ids: readonly string[]): Sketch[] {
    return ids.flatMap((id) => {
      const body = prepared(this.db, 'SELECT body FROM sketches WHERE attempt_id = ? AND version = ?')
        .pluck()
        .get(id, sketchVersion);
      return body === undefined ? [] : [JSON.parse(body as string) as Sketch];
    });
  }

  /**
   * Failing attempts of a test that were held against so few passing ones that what has come since may
   * change what is said of them: twice as many and one, and of the first few each.
   */
  outgrown(test: string, environmentKey: string): string[] {
    const count = prepared(
      this.db,
      passing('sum(a.environment_key = ?) AS own, sum(a.environment_key <> ?) AS others'),
    ).get(environmentKey, environmentKey, test, '') as { own: number | null; others: number | null };
    const now = Math.min(baselineMost.own, count.own ?? 0) + Math.min(baselineMost.others, count.others ?? 0);
    return prepared(
      this.db,
      `SELECT id FROM attempts WHERE test_id = ? AND state = 'ready' AND outcome IN ('failed', 'errored')
         AND series_id IS NULL AND (baseline * 2 + 1 <= @now OR (baseline < ${eachTells} AND baseline < @now)) ORDER BY started_at DESC LIMIT 50`,
    )
      .pluck()
      .all(test, { now }) as string[];
  }

  /** Failing attempts, the latest, that were judged when only a good part less was known of what is ordinary. */
  judgedWithLess(ordinary: number): string[] {
    return prepared(
      this.db,
      `SELECT a.id FROM (SELECT id, outcome, ordinary, series_id, state FROM attempts ORDER BY rowid DESC LIMIT ${lookedBack}) a
       WHERE a.state = 'ready' AND a.outcome IN ('failed', 'errored') AND a.series_id IS NULL AND a.ordinary * 2 <= ?
         AND EXISTS (SELECT 1 FROM sketches s WHERE s.attempt_id = a.id)`,
    )
      .pluck()
      .all(ordinary) as string[];
  }

  /** How many passing attempts there are to tell what is ordinary; counted no further than so many. */
  passingUpTo(most: number): number {
    return prepared(
      this.db,
      `SELECT count(*) FROM (SELECT 1 FROM sketches s JOIN attempts a ON a.id = s.attempt_id
       WHERE s.version = ${sketchVersion} AND a.outcome = 'passed' AND a.state = 'ready' AND a.undetermined = 1 AND a.series_id IS NULL
       ORDER BY s.rowid DESC LIMIT ?)`,
    )
      .pluck()
      .get(most) as number;
  }

  /**
   * The others that failed as one did, of a test that is not known to pass: from the third on they tell more together
   * than the first ones could be told.
   */
  joined(id: string): string[] {
    const all = prepared(
      this.db,
      `SELECT b.id FROM attempts a JOIN attempts b INDEXED BY attempts_by_test ON b.test_id = a.test_id AND b.family_id = a.family_id
       WHERE a.id = ? AND a.baseline = 0 AND b.baseline = 0 AND a.outcome IN ('failed', 'errored') AND b.state = 'ready'
         AND a.series_id IS NULL AND b.series_id IS NULL LIMIT 5`,
    )
      .pluck()
      .all(id) as string[];
    return all.length >= togetherFrom && all.length <= togetherFrom + 1 ? all.filter((one) => one !== id) : [];
  }

  private bodies(sql: string, ...values: unknown[]): Sketch[] {
    const list = prepared(this.db, sql)
      .pluck()
      .all(...values) as string[];
    return list.map((body) => JSON.parse(body) as Sketch);
  }
}
