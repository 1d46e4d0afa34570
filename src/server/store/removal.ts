import type Database from 'better-sqlite3';
import type { RunWeight } from '../../core/records.ts';
import type { Find } from './find.ts';
import { prepared } from './prepared.ts';

/** Removing a run: what it has alone goes, what others share or somebody decided stays. */
export class Removal {
  constructor(
    private readonly db: Database.Database,
    private readonly find: Find,
  ) {}

  /** A run of trials belongs to its series. */
  isOfSeries(run: string): boolean {
    return prepared(this.db, 'SELECT 1 FROM series WHERE run_id = ? LIMIT 1').get(run) !== undefined;
  }

  weigh(run: string): RunWeight {
    const count = (sql: string): number => prepared(this.db, sql).pluck().get(run) as number;
    const own = `SELECT DISTINCT u.blob FROM blob_uses u JOIN attempts a ON a.id = u.attempt_id WHERE a.run_id = ?
      AND NOT EXISTS (SELECT 1 FROM blob_uses o JOIN attempts b ON b.id = o.attempt_id WHERE o.blob = u.blob AND b.run_id <> a.run_id)`;
    return {
      attempts: count('SELECT count(*) FROM attempts WHERE run_id = ?'),
      tests: count('SELECT count(DISTINCT test_id) FROM attempts WHERE run_id = ?'),
      events: count('SELECT count(*) FROM events WHERE attempt_id IN (SELECT id FROM attempts WHERE run_id = ?)'),
      files: count(`SELECT count(*) FROM (${own})`),
      bytes: count(`SELECT coalesce(sum(size), 0) FROM blobs WHERE name IN (${own})`),
      families: count(
        `SELECT count(DISTINCT family_id) FROM attempts a WHERE run_id = ? AND family_id IS NOT NULL
           AND NOT EXISTS (SELECT 1 FROM attempts o WHERE o.family_id = a.family_id AND o.run_id <> a.run_id)`,
      ),
      drills: count('SELECT count(*) FROM drills WHERE attempt_id IN (SELECT id FROM attempts WHERE run_id = ?)'),
    };
  }

  /** Some of its attempts that are still there. */
  some(run: string, most: number): string[] {
    return prepared(this.db, 'SELECT id FROM attempts WHERE run_id = ? LIMIT ?').pluck().all(run, most) as string[];
  }

  /** An attempt whose events and files are gone already. */
  attempt(id: string): void {
    this.find.index(id, { message: '', console: '', request: '', step: '', note: '' });
    prepared(this.db, 'DELETE FROM find_docs WHERE attempt_id = ?').run(id);
    prepared(this.db, 'DELETE FROM files WHERE attempt_id = ?').run(id);
    prepared(this.db, 'DELETE FROM attempts WHERE id = ?').run(id);
  }

  /** The run itself, once none of its attempts is left, with families and tests that nothing is left of. */
  finish(run: string): void {
    prepared(
      this.db,
      `DELETE FROM fingerprints WHERE family_id IN (SELECT f.id FROM families f
         WHERE NOT EXISTS (SELECT 1 FROM attempts WHERE family_id = f.id) AND NOT EXISTS (SELECT 1 FROM decisions WHERE family_id = f.id)
         AND NOT EXISTS (SELECT 1 FROM family_moves WHERE family_id = f.id OR into_id = f.id))`,
    ).run();
    prepared(
      this.db,
      `DELETE FROM families WHERE NOT EXISTS (SELECT 1 FROM attempts WHERE family_id = families.id)
         AND NOT EXISTS (SELECT 1 FROM decisions WHERE family_id = families.id)
         AND NOT EXISTS (SELECT 1 FROM family_moves WHERE family_id = families.id OR into_id = families.id)`,
    ).run();
    prepared(this.db, 'DELETE FROM runs WHERE id = ?').run(run);
  }
}
