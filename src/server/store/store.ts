import type Database from 'better-sqlite3';
import { analysisVersion, type Analysis } from '../../core/analyse.ts';
import { Attempts } from './attempts.ts';
import { Blobs } from './blobs.ts';
import { openDatabase } from './database.ts';
import { Drills } from './drills.ts';
import { Events } from './events.ts';
import { EvidenceFiles } from './evidence-files.ts';
import { Families } from './families.ts';
import { Find, type FindDoc } from './find.ts';
import { Intakes } from './intakes.ts';
import { Locators } from './locators.ts';
import { Rules } from './rules.ts';
import { Runs } from './runs.ts';
import { Sketches } from './sketches.ts';

/** Everything kept in one data folder. */
export class Store {
  readonly db: Database.Database;
  readonly runs: Runs;
  readonly attempts: Attempts;
  readonly events: Events;
  readonly blobs: Blobs;
  readonly families: Families;
  readonly drills: Drills;
  readonly files: EvidenceFiles;
  readonly intakes: Intakes;
  readonly find: Find;
  readonly rules: Rules;
  readonly sketches: Sketches;
  readonly locators: Locators;

  /** @param role only the owner of the data folder tidies it at the start; a thread of the same server does not */
  constructor(
    readonly home: string,
    role: 'owner' | 'thread' = 'owner',
  ) {
    this.db = openDatabase(home);
    this.runs = new Runs(this.db);
    this.families = new Families(this.db);
    this.attempts = new Attempts(this.db, this.families);
    this.events = new Events(this.db);
    this.blobs = new Blobs(this.db, home, role === 'owner');
    this.drills = new Drills(this.db);
    this.files = new EvidenceFiles(this.db);
    this.intakes = new Intakes(this.db);
    this.find = new Find(this.db);
    this.rules = new Rules(this.db);
    this.sketches = new Sketches(this.db);
    this.locators = new Locators(this.db);
  }

  /**
   * Writes what the analysis found of an attempt, in place of what an earlier one had. Called inside a transaction.
   * @param words of the attempt by where they stand
   */
  settle(id: string, analysis: Analysis, words: FindDoc): void {
    this.events.replaceDerived(id, analysis.derived, analysis.labels);
    this.attempts.settle(id, analysis, analysisVersion);
    // One without evidence has nothing to be held against.
    const attempt = analysis.sketch?.until ? this.attempts.get(id) : undefined;
    if (attempt) {
      this.sketches.put(id, attempt.test.id, analysis.sketch!);
      this.locators.keep(attempt.test.id, analysis.locators, attempt.startedAt);
    }
    this.find.index(id, words);
  }

  /** All of it is written, or none. */
  together<T>(work: () => T): T {
    return this.db.transaction(work)();
  }

  close(): void {
    this.db.close();
  }
}
