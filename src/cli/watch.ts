import { createHash } from 'node:crypto';
import { closeSync, mkdirSync, openSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import { asError } from '../core/background.ts';
import type { IntakeResult } from '../core/records.ts';
import { classify } from '../server/ingest/delivered/classify.ts';
import { readPart } from '../server/ingest/delivered/spool.ts';
import { CliError, type LocalFile } from './home.ts';
import { filesBelow } from './intake.ts';

export interface WatchOptions {
  /** A file is whole once it has not changed for so long, ms. */
  quietMs: number;
  /** Files without a report wait so long for one, ms. */
  reportMs: number;
  /** How often the folder is looked at, ms. */
  everyMs: number;
  /** What is there already is left alone. */
  newOnly: boolean;
}

export interface WatchWork {
  folder: string;
  options: WatchOptions;
  /** @param run that files without a report of their own belong to, where one came before them */
  give(files: readonly LocalFile[], run: string | undefined): Promise<IntakeResult>;
  gave(files: readonly LocalFile[], result: IntakeResult): void;
  failed(files: readonly LocalFile[], error: Error): void;
  stopped(): boolean;
}

const kinds = new Set(['junit', 'dotnet', 'tap', 'zip', 'gzip', 'tar']);

/** Whether a file is a report, or may have one in it. */
function mayReport({ path, name, size }: LocalFile): boolean {
  let fd: number;
  try {
    fd = openSync(path, 'r');
  } catch {
    return false;
  }
  try {
    const read = (from: number, length: number): Buffer => readPart(fd, from, length);
    return kinds.has(classify({ name, size, read, close: () => undefined }));
  } catch {
    return false;
  } finally {
    closeSync(fd);
  }
}

const markOf = ({ size, modifiedAt }: Pick<LocalFile, 'size' | 'modifiedAt'>): string => `${size} ${modifiedAt}`;

/** What goes while the folder is looked at is left out. */
const thereNow = (folder: string): LocalFile[] => filesBelow(folder, () => undefined);

/** What of a folder was given already, kept over calls by what its files were like. */
class Given {
  private readonly path: string;
  private readonly marks: Map<string, string>;
  constructor(folder: string) {
    const name = createHash('sha256').update(resolve(folder)).digest('hex').slice(0, 16);
    this.path = join(homedir(), '.iskel', 'watched', `${name}.json`);
    let known: [string, string][] = [];
    try {
      known = JSON.parse(readFileSync(this.path, 'utf8')) as [string, string][];
    } catch {
      // Watched for the first time.
    }
    this.marks = new Map(known);
  }
  has(file: LocalFile): boolean {
    return this.marks.get(file.path) === markOf(file);
  }
  add(files: readonly LocalFile[]): void {
    for (const file of files) this.marks.set(file.path, markOf(file));
    try {
      mkdirSync(join(this.path, '..'), { recursive: true, mode: 0o700 });
      writeFileSync(`${this.path}.new`, JSON.stringify([...this.marks]), { mode: 0o600 });
      renameSync(`${this.path}.new`, this.path);
    } catch {
      // Without a home the next call gives them again, and finds that they are here.
    }
  }
}

/**
 * Gives what comes into a folder, until it is stopped: once everything new has been quiet for a while it goes as one
 * delivery. What comes without a report belongs to the run of the report before it; without one it waits for one.
 * @throws CliError when the folder is not there
 */
export async function watch({ folder, options, give, gave, failed, stopped }: WatchWork): Promise<void> {
  if (!statSync(folder, { throwIfNoEntry: false })?.isDirectory())
    throw new CliError(`there is no folder “${folder}”`, 2);
  const given = new Given(folder);
  if (options.newOnly) given.add(thereNow(folder));
  const seen = new Map<string, { mark: string; since: number }>();
  let run: string | undefined;
  let notBefore = 0;
  while (!stopped()) {
    const now = Date.now();
    const fresh = thereNow(folder).filter((file) => !given.has(file));
    let youngest = 0;
    for (const file of fresh) {
      const known = seen.get(file.path);
      const mark = markOf(file);
      if (known?.mark !== mark) seen.set(file.path, { mark, since: now });
      youngest = Math.max(youngest, seen.get(file.path)!.since);
    }
    const quiet = fresh.length > 0 && now - youngest >= options.quietMs && now >= notBefore;
    if (quiet) {
      const reports = fresh.some(mayReport);
      if (reports || run !== undefined || now - youngest >= options.reportMs) {
        try {
          const result = await give(fresh, reports ? undefined : run);
          run = result.runId ?? run;
          given.add(fresh);
          gave(fresh, result);
        } catch (error) {
          failed(fresh, asError(error));
          notBefore = Date.now() + 10_000;
        }
      }
    }
    await new Promise((done) => setTimeout(done, options.everyMs));
  }
}
