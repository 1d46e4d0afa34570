import { spawn, type ChildProcess } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { lstatSync, mkdirSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { trouble } from '../core/background.ts';
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
    // The random part is the system's: nobody can have put a folder of that name there before.
    this.folder = mkdtempSync(join(tmpdir(), `iskel-${place}-`));
    this.key = `${place}-${randomBytes(4).toString('hex')}`;
    this.keeper = startKeeper(this.key, this.folder);
  }

  /** @param home the data folder; what an earlier server on the same folder left running is ended first */
  static async start(home: string): Promise<Owner> {
    const place = createHash('sha256').update(home).digest('hex').slice(0, 8);
    await sweep(`${place}-`);
    for (const left of leftFolders(place)) await rm(left, { recursive: true, force: true }).catch(() => undefined);
    return new Owner(place);
  }

  /** Environment and folder for one more family of processes. */
  next(): { mark: string; folder: string; env: NodeJS.ProcessEnv } {
    const mark = `${this.key}-${++this.count}.`;
    const folder = join(this.folder, String(this.count));
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    // Where browsers put what pages have them download, for as long as the session lasts.
    const downloads = join(folder, 'downloads');
    mkdirSync(downloads, { mode: 0o700 });
    writeFileSync(join(folder, 'user-dirs.dirs'), `XDG_DOWNLOAD_DIR="${downloads}"\n`, { mode: 0o600 });
    const env = {
      ...withoutOurs(process.env),
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

/** A process that outlives us just long enough to end everything that carries the key, and to remove the folder. */
export function startKeeper(key: string, folder: string): ChildProcess {
  const script = fileURLToPath(new URL('./keeper.mjs', import.meta.url));
  const keeper = spawn(process.execPath, [script, key, folder], {
    stdio: ['pipe', 'ignore', 'ignore'],
    detached: true,
    env: withoutOurs(process.env),
  });
  keeper.on('error', (error) => trouble('the keeper of our processes', error));
  keeper.stdin?.on('error', (error) => trouble('the keeper of our processes', error));
  keeper.unref();
  return keeper;
}

/** The environment without what is for us alone: our token, the secrets drills type, our settings. */
export function withoutOurs(env: NodeJS.ProcessEnv): NodeJS.ProcessEnv {
  return Object.fromEntries(Object.entries(env).filter(([name]) => !name.startsWith('ISKEL_')));
}

/** Folders that earlier owners of the same place left: real folders of ours, never what somebody else put there. */
function leftFolders(place: string): string[] {
  return readdirSync(tmpdir())
    .filter((name) => name.startsWith(`iskel-${place}-`))
    .map((name) => join(tmpdir(), name))
    .filter((path) => {
      const found = lstatSync(path, { throwIfNoEntry: false });
      return found?.isDirectory() && (process.getuid === undefined || found.uid === process.getuid());
    });
}
