import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** One server to a data folder: two would end each other's browsers. */
export class DataLock {
  private constructor(private readonly path: string) {}

  /** @throws Error naming the process that has the folder */
  static take(home: string): DataLock {
    mkdirSync(home, { recursive: true, mode: 0o700 });
    const path = join(home, 'server.pid');
    const other = readPid(path);
    if (other !== undefined && other !== process.pid && isOurs(other)) {
      throw new Error(
        `the data folder ${home} is in use by process ${other}; stop that Iskel, or choose another folder with ISKEL_DATA`,
      );
    }
    writeFileSync(path, String(process.pid), { mode: 0o600 });
    return new DataLock(path);
  }

  release(): void {
    rmSync(this.path, { force: true });
  }
}

function readPid(path: string): number | undefined {
  try {
    return Number(readFileSync(path, 'utf8')) || undefined;
  } catch {
    return undefined;
  }
}

/** True when the process runs and is a Node program; a number given again to another program is no lock. */
function isOurs(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('node');
  } catch {
    return false;
  }
}
