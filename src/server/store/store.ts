import type Database from 'better-sqlite3';
import { Attempts } from './attempts.ts';
import { Blobs } from './blobs.ts';
import { openDatabase } from './database.ts';
import { Drills } from './drills.ts';
import { Events } from './events.ts';
import { Families } from './families.ts';
import { Runs } from './runs.ts';

/** Everything kept in one data folder. */
export class Store {
  readonly db: Database.Database;
  readonly runs: Runs;
  readonly attempts: Attempts;
  readonly events: Events;
  readonly blobs: Blobs;
  readonly families: Families;
  readonly drills: Drills;

  constructor(readonly home: string) {
    this.db = openDatabase(home);
    this.runs = new Runs(this.db);
    this.attempts = new Attempts(this.db);
    this.events = new Events(this.db);
    this.blobs = new Blobs(this.db, home);
    this.families = new Families(this.db);
    this.drills = new Drills(this.db);
  }

  /** All of it is written, or none. */
  together<T>(work: () => T): T {
    return this.db.transaction(work)();
  }

  close(): void {
    this.db.close();
  }
}
