import type Database from 'better-sqlite3';
import type { Locator } from '../../core/evidence/event.ts';
import { locatorKey } from '../../core/evidence/locator.ts';
import { prepared } from './prepared.ts';

/** Most locators of a test that are kept. A page looks at each of them whenever it changes. */
export const mostLocators = 32;

/** Locators that tests looked with lately. */
export class Locators {
  constructor(private readonly db: Database.Database) {}

  /**
   * Keeps what an attempt looked with. An older attempt, analysed anew, changes nothing of what a later one used.
   * @param usedAt wall clock of its start, ms
   */
  keep(test: string, locators: readonly Locator[], usedAt: number): void {
    const put = prepared(
      this.db,
      `INSERT INTO locators (test_id, key, locator, position, used_at) VALUES (?, ?, ?, ?, ?)
       ON CONFLICT DO UPDATE SET position = excluded.position, used_at = excluded.used_at
       WHERE excluded.used_at > used_at`,
    );
    locators
      .slice(0, mostLocators)
      .forEach((locator, i) => put.run(test, locatorKey(locator), JSON.stringify(locator), i, usedAt));
    prepared(
      this.db,
      `DELETE FROM locators WHERE test_id = ? AND key NOT IN
         (SELECT key FROM locators WHERE test_id = ? ORDER BY used_at DESC, position LIMIT ${mostLocators})`,
    ).run(test, test);
  }

  /** What the test of an attempt looked with before, in the order it did. */
  usedBefore(attempt: string): Locator[] {
    const rows = prepared(
      this.db,
      `SELECT l.locator FROM locators l JOIN attempts a ON a.test_id = l.test_id WHERE a.id = ? ORDER BY l.position`,
    )
      .pluck()
      .all(attempt) as string[];
    return rows.map((row) => JSON.parse(row) as Locator);
  }
}
