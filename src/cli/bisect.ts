import { execFile, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { Owner, withoutOurs } from '../browser/owner.ts';
import { ownerVariable } from '../browser/sweep.mjs';
import {
  beliefs,
  differAt,
  found,
  movedOdds,
  nextCommit,
  sureAt,
  trialsAtEnds,
  trialsAtOnce,
  trialsToCome,
  type Found,
  type Trials,
} from '../core/bisect/bisect.ts';
import type { BisectSettings, ProgramCall } from '../server/local-settings.ts';
import { CliError, type Home } from './home.ts';

const run = promisify(execFile);

export interface BisectOptions {
  good: string;
  bad: string;
  /** Trials at each end first, and at most in all. */
  ends: number;
  most: number;
}

/** What a bisection came to. */
export interface Bisected {
  commits: { id: string; subject: string; trials: Trials; problem?: string }[];
  trials: number;
  /** Told after the ends: how many more it would take. */
  told: { middle: number; most: number } | null;
  found: (Found & { id: string; subject: string; sure: boolean }) | null;
  words: string;
}

/** The commits from a good one to a bad one along the first parents, oldest first, the good one among them. */
async function commitsBetween(folder: string, good: string, bad: string): Promise<{ id: string; subject: string }[]> {
  const git = async (...args: string[]): Promise<string> => {
    try {
      return (await run('git', ['-C', folder, ...args], { maxBuffer: 64 * 1024 ** 2 })).stdout;
    } catch (error) {
      const { stderr } = error as { stderr?: string };
      throw new CliError(`git could not read ${folder}: ${(stderr ?? (error as Error).message).trim()}`, 2);
    }
  };
  // What looks like an option is none.
  for (const name of [good, bad]) if (name.startsWith('-')) throw new CliError(`“${name}” is no name of a commit`, 2);
  const list = async (...range: string[]): Promise<{ id: string; subject: string }[]> =>
    (await git('log', '--first-parent', '--reverse', '--format=%H %s', ...range, '--'))
      .split('\n')
      .filter(Boolean)
      .map((line) => ({ id: line.slice(0, 40), subject: line.slice(41) }));
  const [first] = await list('-1', good);
  const later = await list(`${good}..${bad}`);
  if (!first || later.length === 0) throw new CliError(`there is no commit from ${good} to ${bad} in ${folder}`, 2);
  return [first, ...later];
}

/** Plays trials of the application as it was at one commit after the other, each in files of its own. */
class Yard {
  private readonly folder = mkdtempSync(join(tmpdir(), 'iskel-bisect-'));
  private readonly made = new Map<string, string>();

  private constructor(
    private readonly home: Home,
    private readonly settings: BisectSettings,
    private readonly owner: Owner,
  ) {}

  static async open(home: Home, settings: BisectSettings): Promise<Yard> {
    // A name of its own: what an earlier one left is ended by its keeper.
    return new Yard(home, settings, await Owner.start(`bisect ${settings.folder} ${process.pid}`));
  }

  /** The files of a commit, made ready to be started. */
  private async filesOf(id: string): Promise<string> {
    const known = this.made.get(id);
    if (known) return known;
    const files = join(this.folder, id.slice(0, 12));
    await run('git', ['-C', this.settings.folder, 'worktree', 'add', '--detach', '--force', files, id]);
    this.made.set(id, files);
    if (this.settings.prepare) {
      const { mark, folder } = this.owner.next();
      const { code, out } = await played(this.settings.prepare, files, id, mark).finally(() =>
        this.owner.end(mark, folder),
      );
      if (code !== 0) throw new Error(`it could not be prepared (${code}): ${out.slice(-300)}`);
    }
    return files;
  }

  /** Starts the application of a commit, plays trials of it, ends it. @throws Error in words when it does not come up */
  async trials(id: string, count: number): Promise<Trials> {
    const { settings, owner } = this;
    const files = await this.filesOf(id);
    const { mark, folder } = owner.next();
    const child = spawn(settings.start.program, settings.start.args, {
      cwd: files,
      env: { ...withoutOurs(process.env), ...settings.start.environment, ISKEL_COMMIT: id, [ownerVariable]: mark },
      stdio: 'ignore',
      detached: true,
    });
    try {
      await this.up(child);
      return await (settings.drill === undefined ? this.byTest(id, files, count, mark) : this.byDrill(count));
    } finally {
      await owner.end(mark, folder);
    }
  }

  private async up(child: ReturnType<typeof spawn>): Promise<void> {
    const { ready, readySeconds, start } = this.settings;
    let ended: string | undefined;
    child.once('error', ({ message }) => (ended = `“${start.program}” could not be started: ${message}`));
    child.once('exit', (code) => (ended = `“${start.program}” ended with ${code} before ${ready} answered`));
    for (const end = Date.now() + readySeconds * 1000; ;) {
      const answers = await fetch(ready, { signal: AbortSignal.timeout(2000) }).then(
        ({ status }) => status < 500,
        () => false,
      );
      if (ended) throw new Error(ended);
      if (answers) return;
      if (Date.now() > end) throw new Error(`${ready} did not answer in ${readySeconds} s`);
      await new Promise((next) => setTimeout(next, 100));
    }
  }

  private async byTest(id: string, files: string, count: number, mark: string): Promise<Trials> {
    let failed = 0;
    for (let trial = 0; trial < count; trial++)
      if ((await played(this.settings.test!, files, id, mark)).code !== 0) failed++;
    return { failed, of: count };
  }

  private async byDrill(trials: number): Promise<Trials> {
    const { drill: drillId, engine } = this.settings;
    const { id } = await this.home.post<{ id: string }>('/series', { drillId, engine, trials, stressors: [] });
    for (;;) {
      const { state, done, failed, problem } = await this.home.get<{
        state: string;
        done: number;
        failed: number;
        problem: string | null;
      }>(`/series/${id}`);
      if (state === 'done') return { failed, of: done };
      if (state === 'failed' || state === 'stopped')
        throw new CliError(`the trials of ${drillId} were broken off: ${problem ?? state}`);
      await new Promise((next) => setTimeout(next, 300));
    }
  }

  async close(): Promise<void> {
    await this.owner.close();
    for (const files of this.made.values())
      await run('git', ['-C', this.settings.folder, 'worktree', 'remove', '--force', files]).catch(() => undefined);
    rmSync(this.folder, { recursive: true, force: true });
    await run('git', ['-C', this.settings.folder, 'worktree', 'prune']).catch(() => undefined);
  }
}

/** Runs a program to its end; what it leaves running bears the mark, and is ended by whoever gave that. */
function played(
  { program, args, environment }: ProgramCall,
  cwd: string,
  id: string,
  mark: string,
): Promise<{ code: number | null; out: string }> {
  return new Promise((done, fail) => {
    const child = spawn(program, args, {
      cwd,
      env: { ...withoutOurs(process.env), ...environment, ISKEL_COMMIT: id, [ownerVariable]: mark },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let out = '';
    const hear = (chunk: Buffer): void => void (out = (out + chunk.toString()).slice(-4000));
    child.stdout.on('data', hear);
    child.stderr.on('data', hear);
    child.once('error', ({ message }) => fail(new CliError(`“${program}” could not be started: ${message}`)));
    child.once('exit', (code) => done({ code, out }));
  });
}

const percent = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;

/**
 * Finds the commit that moved the rate at which a test fails.
 * @param tell is told in words how far it is @param stopped is asked before each round
 */
export async function bisect(
  home: Home,
  settings: BisectSettings,
  { good, bad, ends, most }: BisectOptions,
  tell: (line: string) => void,
  stopped: () => boolean,
): Promise<Bisected> {
  const commits = (await commitsBetween(settings.folder, good, bad)).map((one) => ({
    ...one,
    trials: { failed: 0, of: 0 },
  })) as Bisected['commits'];
  const last = commits.length - 1;
  const counts = (): Trials[] => commits.map(({ trials }) => trials);
  const all = (): number => commits.reduce((sum, { trials }) => sum + trials.of, 0);
  const yard = await Yard.open(home, settings);
  const name = ({ id, subject }: { id: string; subject: string }): string =>
    `${id.slice(0, 10)} “${subject.slice(0, 50)}”`;
  const play = async (at: number, count: number): Promise<void> => {
    const one = commits[at]!;
    try {
      const { failed, of } = await yard.trials(one.id, count);
      one.trials = { failed: one.trials.failed + failed, of: one.trials.of + of };
      tell(`${name(one)}: ${one.trials.failed} of ${one.trials.of} failed`);
    } catch (error) {
      if (error instanceof CliError || at === 0 || at === last) throw error;
      // One that cannot be built says nothing; its neighbours do.
      one.problem = (error as Error).message;
      tell(`${name(one)}: passed over, ${one.problem}`);
    }
  };
  const ended = (words: string, told: Bisected['told'], is: Bisected['found']): Bisected => ({
    commits,
    trials: all(),
    told,
    found: is,
    words,
  });
  try {
    tell(`${commits.length} commits; ${ends} trials of the first and of the last of them come first`);
    for (const end of [0, last]) await play(end, ends);
    while (movedOdds(counts()) < differAt && all() < most / 2 && !stopped())
      for (const end of [0, last]) await play(end, trialsAtOnce);
    const [first, latest] = [commits[0]!.trials, commits[last]!.trials];
    const atEnds = `${first.failed} of ${first.of} failed at the first commit, ${latest.failed} of ${latest.of} at the last`;
    if (movedOdds(counts()) < differAt)
      return ended(`The ends do not differ surely: ${atEnds}. There is nothing to look for between them.`, null, null);
    const told = trialsToCome(counts(), most);
    tell(`${atEnds}. It takes about ${told.middle} trials more, under ${told.most} in nine cases of ten.`);
    const can = (commit: number): boolean => commits[commit]!.problem === undefined;
    while (Math.max(...beliefs(counts())) < sureAt && all() < most && !stopped())
      await play(nextCommit(beliefs(counts()), can), trialsAtOnce);
    const is = found(counts());
    const sure = is.belief >= sureAt;
    const one = commits[is.commit]!;
    const rates = `${is.before.failed} of ${is.before.of} before it (${percent(is.before.low)} to ${percent(is.before.high)}), ${is.after.failed} of ${is.after.of} since (${percent(is.after.low)} to ${percent(is.after.high)})`;
    return ended(
      sure
        ? `${name(one)} moved it, with ${percent(is.belief)}: failed ${rates}; ${all()} trials`
        : `Not sure after ${all()} trials: most likely ${name(one)}, with ${percent(is.belief)}; failed ${rates}`,
      told,
      { ...is, id: one.id, subject: one.subject, sure },
    );
  } finally {
    await yard.close();
  }
}

export const bisectDefaults = { ends: trialsAtEnds, most: 2000 } as const;
