import { spawn, type ChildProcess } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ownerVariable, processesMarked, sweep } from './sweep.mjs';

/**
 * Owns every child process (driver, browser) of one server: each carries the owner's mark, works in
 * a folder of its own, and is ended with the server, even when the server is killed.
 */
export class Owner {
  /** Short, because Chromium keeps a socket in it and socket paths are limited to about 100 characters. */
  readonly folder: string;
  private readonly key: string;
  private readonly keeper: ChildProcess;
  private count = 0;

  private constructor(place: string) {
    this.folder = join(tmpdir(), `iskel-${place}`);
    mkdirSync(this.folder, { recursive: true, mode: 0o700 });
    this.key = `${place}-${randomBytes(4).toString('hex')}`;
    const script = fileURLToPath(new URL('./keeper.mjs', import.meta.url));
    this.keeper = spawn(process.execPath, [script, this.key, this.folder], {
      stdio: ['pipe', 'ignore', 'ignore'],
      detached: true,
    });
    this.keeper.unref();
  }

  /** @param home the data folder; what an earlier server on the same folder left running is ended first */
  static async start(home: string): Promise<Owner> {
    const place = createHash('sha256').update(home).digest('hex').slice(0, 8);
    await sweep(`${place}-`, join(tmpdir(), `iskel-${place}`));
    return new Owner(place);
  }

  /** Environment and folder for one more family of processes. */
  next(): { mark: string; folder: string; env: NodeJS.ProcessEnv } {
    const mark = `${this.key}-${++this.count}.`;
    const folder = join(this.folder, String(this.count));
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    const env = {
      ...process.env,
      [ownerVariable]: mark,
      TMPDIR: folder,
      XDG_CONFIG_HOME: folder,
      XDG_CACHE_HOME: folder,
    };
    return { mark, folder, env };
  }

  /** Ids of everything running that this owner started. */
  running(): number[] {
    return processesMarked(this.key);
  }

  async end(mark: string, folder: string): Promise<void> {
    await sweep(mark, folder);
  }

  /** Ends everything, and the keeper with it. */
  async close(): Promise<void> {
    await sweep(this.key, this.folder);
    this.keeper.stdin?.end();
  }
}
