import Database from 'better-sqlite3';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ownersOnly } from './store/database.ts';
import { isBusy } from './store/patience.ts';

/**
 * One server to a data folder: two would end each other's browsers. The lock is the system's own on a small file: it is
 * taken in one step, and gone with the process that had it, however that ended and whoever has its number now.
 */
export class DataLock {
  private constructor(
    private readonly lock: Database.Database,
    private readonly who: string,
  ) {}

  /** @throws Error naming the process that has the folder */
  static take(home: string): DataLock {
    mkdirSync(home, { recursive: true, mode: 0o700 });
    const who = join(home, 'server.pid');
    const lock = new Database(ownersOnly(join(home, 'server.lock')), { timeout: 0 });
    try {
      lock.pragma('journal_mode = MEMORY');
      lock.exec('BEGIN EXCLUSIVE');
    } catch (error) {
      lock.close();
      if (!isBusy(error)) throw error;
      throw new Error(
        `the data folder ${home} is in use by process ${readWho(who)}; stop that Iskel, or choose another folder with ISKEL_DATA`,
      );
    }
    writeFileSync(who, String(process.pid), { mode: 0o600 });
    return new DataLock(lock, who);
  }

  release(): void {
    rmSync(this.who, { force: true });
    this.lock.close();
  }
}

/** Only to name it: whether the folder is in use is not asked of this file. */
function readWho(path: string): string {
  try {
    return readFileSync(path, 'utf8').trim() || 'not known';
  } catch {
    return 'not known';
  }
}
