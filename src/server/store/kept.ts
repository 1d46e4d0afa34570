import type Database from 'better-sqlite3';
import { levels, type KeptAttempt, type Level } from '../../core/keeping/keeping.ts';
import type { LetGo, LetGoWhy } from '../../core/keeping/plan.ts';
import { prepared } from './prepared.ts';

/** What is kept of an attempt, and why not everything. */
export interface KeptState {
  level: Level;
  pinned: boolean;
  letGoAt: number | null;
  why: LetGoWhy | null;
}

/** Files that show something go first; what was read from others stays with the rest. */
const shows = "('video', 'picture')";

/** How much is kept of each attempt, and which files it shows. */
export class Kept {
  constructor(private readonly db: Database.Database) {}

  /** Notes what the events of an attempt that settled take. Called inside a transaction. */
  put(attempt: string): void {
    prepared(
      this.db,
      `INSERT INTO kept (attempt_id, bytes)
       SELECT attempt_id, sum(length(data) + 60) FROM events WHERE attempt_id = ? GROUP BY attempt_id
       ON CONFLICT (attempt_id) DO UPDATE SET bytes = excluded.bytes`,
    ).run(attempt);
  }

  of(attempt: string): KeptState {
    const row = prepared(this.db, 'SELECT level, pinned, let_go_at AS letGoAt, why FROM kept WHERE attempt_id = ?').get(
      attempt,
    ) as (Omit<KeptState, 'pinned'> & { pinned: number }) | undefined;
    return row
      ? { ...row, pinned: row.pinned === 1 }
      : { level: levels.whole, pinned: false, letGoAt: null, why: null };
  }

  pin(attempt: string, pinned: boolean): void {
    prepared(
      this.db,
      'INSERT INTO kept (attempt_id, bytes, pinned) VALUES (?, 0, ?) ON CONFLICT (attempt_id) DO UPDATE SET pinned = excluded.pinned',
    ).run(attempt, pinned ? 1 : 0);
  }

  /**
   * Says first how much is kept from now on: what a killed server had not removed yet is found by that. One that was
   * pinned since it was planned, or ended otherwise than was known then, stays as it is.
   */
  lower({ attempt, to, why, outcome }: LetGo, at: number): void {
    prepared(
      this.db,
      `UPDATE kept SET level = ?, why = ?, let_go_at = ? WHERE attempt_id = ? AND level > ? AND pinned = 0
         AND (SELECT outcome FROM attempts WHERE id = attempt_id) = ?`,
    ).run(to, why, at, attempt, to, outcome);
  }

  /** Attempts of which more is still there than is kept: their letting go was broken off. */
  unfinished(): string[] {
    return prepared(
      this.db,
      `SELECT attempt_id FROM kept k WHERE (level = 0 AND bytes > 0) OR (level = 1 AND EXISTS (
         SELECT 1 FROM blob_uses u WHERE u.attempt_id = k.attempt_id AND u.shown = 1))`,
    )
      .pluck()
      .all() as string[];
  }

  /** When it was looked after last, epoch ms; nothing before the first time. */
  lookedAfter(): number | undefined {
    return prepared(this.db, 'SELECT at FROM keeping_clock').pluck().get() as number | undefined;
  }

  looksAfter(at: number): void {
    prepared(
      this.db,
      'INSERT INTO keeping_clock (id, at) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET at = excluded.at',
    ).run(at);
  }

  /** Has the events of an attempt at hand. */
  warm(attempt: string): void {
    prepared(this.db, 'SELECT sum(length(data)) FROM events WHERE attempt_id = ?').get(attempt);
  }

  /** Removes some of the events that go with a level. @returns how many there were; fewer than asked for is the last of them */
  removeEvents(attempt: string, to: Level, most: number): number {
    const what = to === levels.findings ? '' : "AND lane = 'screen'";
    return prepared(
      this.db,
      `DELETE FROM events WHERE attempt_id = ? AND id IN (SELECT id FROM events WHERE attempt_id = ? ${what} LIMIT ?)`,
    ).run(attempt, attempt, most).changes;
  }

  /**
   * Some of the files that an attempt no longer shows, which it gives up here; whether others show them is another matter.
   * @returns their names
   */
  giveUpFiles(attempt: string, to: Level, most: number): string[] {
    const which = to === levels.findings ? '' : `AND kind IN ${shows}`;
    const files = prepared(
      this.db,
      `SELECT id, blob FROM files WHERE attempt_id = ? AND state = 'placed' ${which} LIMIT ?`,
    ).all(attempt, most) as { id: string; blob: string }[];
    for (const { id } of files) prepared(this.db, 'DELETE FROM files WHERE id = ?').run(id);
    const used = prepared(
      this.db,
      `SELECT blob FROM blob_uses WHERE attempt_id = ? ${to === levels.findings ? '' : 'AND shown = 1'} LIMIT ?`,
    )
      .pluck()
      .all(attempt, most) as string[];
    for (const blob of used)
      prepared(this.db, 'DELETE FROM blob_uses WHERE attempt_id = ? AND blob = ?').run(attempt, blob);
    return [...files.map(({ blob }) => blob), ...used];
  }

  /** Nothing of its events is left. */
  emptied(attempt: string): void {
    prepared(this.db, 'UPDATE kept SET bytes = 0 WHERE attempt_id = ?').run(attempt);
  }

  /** Every attempt that has evidence and is not being recorded or analysed, with the files it shows by their rowids. */
  all(): KeptAttempt[] {
    const rows = prepared(
      this.db,
      `SELECT a.id, a.outcome, a.series_id IS NOT NULL AS trial, a.test_id || ' ' || a.environment_key AS place,
         r.name AS run, coalesce(r.branch, '') AS branch, a.started_at AS startedAt, k.pinned, k.level, k.bytes
       FROM kept k JOIN attempts a ON a.id = k.attempt_id JOIN runs r ON r.id = a.run_id WHERE a.state = 'ready'`,
    ).all() as (Omit<KeptAttempt, 'trial' | 'pinned' | 'pictures' | 'others'> & { trial: number; pinned: number })[];
    const all = rows.map((row): KeptAttempt & { pictures: number[]; others: number[] } => ({
      ...row,
      trial: row.trial === 1,
      pinned: row.pinned === 1,
      pictures: [],
      others: [],
    }));
    const byId = new Map(all.map((one) => [one.id, one]));
    const put = (attempt: string, file: number, picture: boolean): void => {
      const one = byId.get(attempt);
      (picture ? one?.pictures : one?.others)?.push(file);
    };
    const uses = prepared(
      this.db,
      'SELECT u.attempt_id AS attempt, b.rowid AS file, u.shown FROM blob_uses u JOIN blobs b ON b.name = u.blob',
    ).iterate() as IterableIterator<{ attempt: string; file: number; shown: number }>;
    for (const { attempt, file, shown } of uses) put(attempt, file, shown === 1);
    const files = prepared(
      this.db,
      `SELECT DISTINCT f.attempt_id AS attempt, b.rowid AS file, f.kind IN ${shows} AS shown
       FROM files f JOIN blobs b ON b.name = f.blob WHERE f.state = 'placed' AND f.attempt_id IS NOT NULL`,
    ).iterate() as IterableIterator<{ attempt: string; file: number; shown: number }>;
    for (const { attempt, file, shown } of files) put(attempt, file, shown === 1);
    for (const one of all) {
      one.pictures = [...new Set(one.pictures)];
      one.others = one.others.filter((file) => !one.pictures.includes(file));
    }
    return all;
  }

  /** Bytes of every file, by its rowid. */
  sizes(): Map<number, number> {
    const sizes = new Map<number, number>();
    const rows = prepared(this.db, 'SELECT rowid AS file, size FROM blobs').iterate() as IterableIterator<{
      file: number;
      size: number;
    }>;
    for (const { file, size } of rows) sizes.set(file, size);
    return sizes;
  }

  /** What the folder takes, bytes: of the database, the part that is in use and the part that is free in it. */
  folder(): { files: number; database: number; free: number } {
    const pragma = (name: string): number => this.db.pragma(name, { simple: true }) as number;
    const files = prepared(this.db, 'SELECT coalesce(sum(size), 0) FROM blobs').pluck().get() as number;
    const page = pragma('page_size');
    return { files, database: pragma('page_count') * page, free: pragma('freelist_count') * page };
  }
}
