import type Database from 'better-sqlite3';
import { statSync } from 'node:fs';
import { join } from 'node:path';
import { analysisVersion, type Analysis } from '../../core/analyse.ts';
import { Attempts } from './attempts.ts';
import { Blobs } from './blobs.ts';
import { Complaints } from './complaints.ts';
import { openDatabase } from './database.ts';
import { Deliveries } from './deliveries.ts';
import { DrillFiles } from './drill-files.ts';
import { Drills } from './drills.ts';
import { Events } from './events.ts';
import { EvidenceFiles } from './evidence-files.ts';
import { Families } from './families.ts';
import { Find, type FindDoc } from './find.ts';
import { Outlooks } from './outlooks.ts';
import { Intakes } from './intakes.ts';
import { History } from './history.ts';
import { Kept } from './kept.ts';
import { Locators } from './locators.ts';
import { patiently } from './patience.ts';
import { Removal } from './removal.ts';
import { Rules } from './rules.ts';
import { Runs } from './runs.ts';
import { SecretPrints } from './secret-prints.ts';
import { Sketches } from './sketches.ts';
import { Agains } from './agains.ts';
import { Mendings } from './mendings.ts';
import { ToldLaterStore } from './told-later.ts';
import { Trials } from './trials.ts';

/** What was written last is what a power cut can have hurt. */
const newestLookedAt = { blobs: 4000, attempts: 400 };

/** How long a delivery keeps others from writing at a time, and leaves them to it, ms. */
const pieceMs = 20;
const pauseMs = 4;
const nothing = new Int32Array(new SharedArrayBuffer(4));
const breathe = (): void => void Atomics.wait(nothing, 0, 0, pauseMs);

/** Everything kept in one data folder. */
export class Store {
  readonly db: Database.Database;
  readonly runs: Runs;
  readonly attempts: Attempts;
  readonly events: Events;
  readonly blobs: Blobs;
  readonly families: Families;
  readonly deliveries: Deliveries;
  readonly drills: Drills;
  readonly drillFiles: DrillFiles;
  readonly trials: Trials;
  readonly mendings: Mendings;
  readonly agains: Agains;
  readonly files: EvidenceFiles;
  readonly told: ToldLaterStore;
  readonly intakes: Intakes;
  readonly find: Find;
  readonly secrets: SecretPrints;
  readonly rules: Rules;
  readonly complaints: Complaints;
  readonly kept: Kept;
  readonly removal: Removal;
  readonly history: History;
  readonly outlooks: Outlooks;
  readonly sketches: Sketches;
  readonly locators: Locators;

  /** Which file the database is; one that is put in its place later is not it. */
  private readonly file: number;
  private sureUntil = 0;

  /** @param role only the owner of the data folder tidies it at the start; a thread of the same server does not */
  constructor(
    readonly home: string,
    role: 'owner' | 'thread' = 'owner',
  ) {
    this.db = openDatabase(home, role);
    this.file = statSync(join(home, 'iskel.sqlite')).ino;
    this.runs = new Runs(this.db);
    this.families = new Families(this.db);
    this.attempts = new Attempts(this.db, this.families);
    this.events = new Events(this.db, () => this.rules.get().hosts);
    this.blobs = new Blobs(this.db, home, role === 'owner');
    this.deliveries = new Deliveries(this.db);
    this.drills = new Drills(this.db);
    this.drillFiles = new DrillFiles(this.db);
    this.trials = new Trials(this.db);
    this.mendings = new Mendings(this.db);
    this.agains = new Agains(this.db);
    this.files = new EvidenceFiles(this.db);
    this.intakes = new Intakes(this.db);
    this.told = new ToldLaterStore(this.db, this.runs, this.attempts, this.events, this.intakes);
    this.find = new Find(this.db);
    this.secrets = new SecretPrints(this.db, home);
    this.rules = new Rules(this.db, () => this.secrets.pattern());
    this.complaints = new Complaints(this.db);
    this.kept = new Kept(this.db);
    this.removal = new Removal(this.db, this.find);
    this.history = new History(this.db);
    this.outlooks = new Outlooks(this.db);
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
      this.complaints.put(id, analysis.complaints, this.rules.policies(), attempt.startedAt);
      const counts = attempt.outcome === 'passed' && attempt.seriesId === null;
      this.outlooks.put(id, attempt.test.id, attempt.startedAt, counts ? analysis.risks : undefined);
    }
    this.kept.put(id);
    this.find.index(id, words);
  }

  /**
   * Puts in order what a power cut left, or a copy taken while the folder was written to: pictures that are named and
   * not there whole are no longer named, and their attempts say how many are missing.
   * @returns how many there were
   */
  async mend(): Promise<number> {
    const broken = new Set(await this.blobs.forgetBroken(newestLookedAt.blobs));
    if (broken.size === 0) return 0;
    for (const id of this.attempts.newest(newestLookedAt.attempts))
      this.together(() => {
        const lost = this.events.removeBlobs(id, broken);
        if (lost === 0) return;
        const label = `${lost} ${lost === 1 ? 'picture was' : 'pictures were'} not written whole when the machine stopped`;
        this.events.write(id, [
          { id: 'lost', lane: 'note', kind: 'recorder', at: 0, clock: 'recorder', data: { label, ok: false } },
        ]);
      });
    return broken.size;
  }

  /**
   * A folder that was removed is written to without complaint, into nowhere.
   * @throws Error when the data folder is no longer the one that was opened; looked at once a second at most
   */
  sureOfFolder(): void {
    const now = performance.now();
    if (now < this.sureUntil) return;
    if (statSync(join(this.home, 'iskel.sqlite'), { throwIfNoEntry: false })?.ino !== this.file)
      throw new Error(`the data folder ${this.home} was removed or replaced while Iskel was running`);
    this.sureUntil = now + 1000;
  }

  /**
   * Does work in one transaction, and again a little later as long as the database is busy: nobody else waits for it.
   * @throws what the work throws, and the database's own error once the patience is over
   */
  patiently<T>(work: () => T): Promise<T> {
    return patiently(() => this.together(work));
  }

  /**
   * Does work for one thing after the other, in transactions of a few ms each with a pause behind it, so that a
   * recording that writes at the same time has its turn. For threads: the pause holds up whoever calls.
   */
  inPieces<T>(things: readonly T[], work: (thing: T) => void): void {
    for (let at = 0; at < things.length;) {
      const end = performance.now() + pieceMs;
      this.together(() => {
        do work(things[at++]!);
        while (at < things.length && performance.now() < end);
      });
      if (at < things.length) breathe();
    }
  }

  /** All of it is written, or none. */
  together<T>(work: () => T): T {
    // Begun as a writer: one that turns into a writer half-way cannot wait for its turn.
    return this.db.transaction(work).immediate();
  }

  close(): void {
    this.db.close();
  }
}
