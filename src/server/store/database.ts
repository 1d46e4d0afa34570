import Database from 'better-sqlite3';
import { chmodSync, closeSync, mkdirSync, openSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { guarded } from '../../core/background.ts';

const folder = new URL('./migrations/', import.meta.url);

/**
 * How long a statement waits by itself for another writer, ms. On the server's own thread every such wait stands in the
 * way of all that goes on there, recordings most of all: it is short, and what did not get its turn is tried again
 * later (`patience.ts`). Threads may wait.
 */
const busyMs = { owner: 25, thread: 10_000 } as const;

/** Opens the database of a data folder and brings it to the newest form. */
export function openDatabase(home: string, role: keyof typeof busyMs = 'owner'): Database.Database {
  mkdirSync(home, { recursive: true, mode: 0o700 });
  const db = new Database(ownersOnly(join(home, 'iskel.sqlite')));
  givesBack(db, role);
  db.pragma('journal_mode = WAL');
  db.pragma('synchronous = NORMAL');
  db.pragma('foreign_keys = ON');
  // Ids are random, so inserts touch pages all over the indexes; with SQLite's own 2 MB most would be read again and again.
  db.pragma('cache_size = -32000');
  db.pragma('wal_autocheckpoint = 4000');
  db.pragma('busy_timeout = 10000');
  migrate(db);
  db.pragma(`busy_timeout = ${busyMs[role]}`);
  return db;
}

/** A database file that nobody else on this machine can read; what SQLite lays beside it has the same mode. */
export function ownersOnly(path: string): string {
  closeSync(openSync(path, 'a', 0o600));
  for (const file of ['', '-wal', '-shm', '-journal'])
    try {
      chmodSync(`${path}${file}`, 0o600);
    } catch (error) {
      // It is not there, or lies where modes mean nothing.
      if (file === '' && (error as NodeJS.ErrnoException).code === 'ENOENT') throw error;
    }
  return path;
}

/** A database of an older form is put in order at the start, when it is so small that nobody waits for it. */
const quicklyVacuumed = 64 * 1024 ** 2;

/** Free pages are given back to the disk, some at a time, when evidence is let go of. Has to be said before anything is in it. */
function givesBack(db: Database.Database, role: keyof typeof busyMs): void {
  if (role !== 'owner' || db.pragma('auto_vacuum', { simple: true }) !== 0) return;
  const size =
    (db.pragma('page_count', { simple: true }) as number) * (db.pragma('page_size', { simple: true }) as number);
  if (size > quicklyVacuumed) return;
  db.pragma('auto_vacuum = INCREMENTAL');
  // A disk that is full, or somebody else who reads, keeps nobody from starting: it is tried again the next time.
  if (size > 0) guarded('putting the database in order', () => db.exec('VACUUM'));
}

/** Applies every numbered migration that is not applied yet, each in one transaction with its number. */
function migrate(db: Database.Database): void {
  const done = db.pragma('user_version', { simple: true }) as number;
  const files = readdirSync(folder)
    .filter((name) => /^\d{3}-.*\.sql$/.test(name))
    .sort();
  const newest = Number(files.at(-1)?.slice(0, 3) ?? 0);
  if (done > newest) {
    throw new Error(
      `this data folder was written by a newer Iskel (form ${done}, this one knows ${newest}); start that one, or choose another folder with ISKEL_DATA`,
    );
  }
  for (const file of files) {
    const number = Number(file.slice(0, 3));
    if (number <= done) continue;
    db.transaction(() => {
      db.exec(readFileSync(new URL(file, folder), 'utf8'));
      db.pragma(`user_version = ${number}`);
    })();
  }
}
