import { spawn } from 'node:child_process';
import { background, trouble } from '../../core/background.ts';
import { maskMark } from '../../core/evidence/masking.ts';
import type { Again, AgainEnded } from '../../core/records.ts';
import { againCall, runName } from '../../core/trials/again.ts';
import { followed } from '../../browser/descendants.ts';
import { ownerVariable } from '../../browser/sweep.mjs';
import { withoutOurs, type Owner } from '../../browser/owner.ts';
import type { Changes } from '../changes.ts';
import { reportsSince } from '../ingest/delivered/reports-since.ts';
import { secretsIn, type TestCommand } from '../local-settings.ts';
import { patiently } from '../store/patience.ts';
import type { Store } from '../store/store.ts';
import type { IntakeJobs } from './intakes.ts';

/** What a command writes is kept and told no oftener than this, ms. */
const tellEveryMs = 300;
/** What a command writes without a line's end is kept in pieces of this, characters. */
const mostLine = 20_000;

export interface AgainOrder {
  command: string;
  tests: string[];
  times: number;
  untilFails: boolean;
  /** What its run is named after. */
  after: string;
}

interface Tools {
  store: Store;
  owner: Owner;
  intakes: IntakeJobs;
  changes: Changes;
  commands: readonly TestCommand[];
  /** Takes secrets that tests declared out of a text. */
  unsecret(text: string): string;
  token: string | undefined;
}

/** Runs test commands of the team's own, one after the other; what they start ends with them, and with us. */
export class AgainJobs {
  /** Where Iskel listens, once it does. */
  address = '';
  private running: Promise<void> = Promise.resolve();
  /** End what is run, by its id. */
  private readonly ending = new Map<string, () => void>();
  private readonly stopping = new Set<string>();
  private closed = false;

  constructor(private readonly tools: Tools) {
    for (const { id } of tools.store.agains.unfinished())
      tools.store.agains.set(id, 'stopped', 'Iskel was stopped while it ran');
  }

  get commands(): readonly TestCommand[] {
    return this.tools.commands;
  }

  /** @throws RangeError in words where so many tests cannot be named to a command */
  start({ command, tests, times, untilFails, after }: AgainOrder): Again {
    const { store } = this.tools;
    const known = this.tools.commands.find(({ name }) => name === command)!;
    const name = `${runName(after)} again, ${new Date().toISOString().slice(0, 19).replace('T', ' ')}`;
    this.callOf(known, tests, name, 1);
    const runId = store.runs.named(name, Date.now());
    const again = store.agains.add({ command, runId, tests, times, untilFails, series: [] });
    this.running = this.running
      .then(() => this.play(again, known, name))
      .catch((error: Error) => patiently(() => this.end(again.id, 'failed', error.message)))
      .catch((error: unknown) => trouble('ending a test command', error, again.id));
    return again;
  }

  /** Ends the command and all that it started; what it left behind is kept. */
  stop(id: string): void {
    const state = this.tools.store.agains.get(id)?.state;
    if (state !== 'waiting' && state !== 'running') return;
    this.stopping.add(id);
    if (state === 'waiting') this.end(id, 'stopped');
    else this.ending.get(id)?.();
  }

  private end(id: string, state: Again['state'], problem: string | null = null): void {
    this.tools.store.agains.set(id, state, problem);
    this.stopping.delete(id);
    this.tools.changes.tell({ type: 'again', id });
  }

  private callOf(
    command: TestCommand,
    tests: readonly string[],
    run: string,
    repetition: number,
  ): ReturnType<typeof againCall> {
    const { store, token } = this.tools;
    const remote = new URL('/wd', this.address || 'http://127.0.0.1');
    // So that it fits in a remote address; a command of the team's own may know it.
    if (token) [remote.username, remote.password] = ['iskel', token];
    const named = store.agains.testNames(tests);
    const { folder } = command;
    return againCall(command.args, {
      tests: named,
      run,
      repetition,
      folder,
      address: this.address,
      remote: remote.href,
    });
  }

  private async play(again: Again, command: TestCommand, name: string): Promise<void> {
    const { store, changes } = this.tools;
    const stopped = (): boolean => this.closed || this.stopping.has(again.id);
    if (stopped() || store.agains.get(again.id)?.state !== 'waiting') return;
    store.agains.set(again.id, 'running');
    changes.tell({ type: 'again', id: again.id });
    for (let i = 1; i <= again.times && !stopped(); i++) {
      // A report tells two times of a test apart by its run alone.
      const own = command.reports.length > 0 && i > 1 ? `${name}, time ${i}` : name;
      const ended = await this.once(again, command, own, i, stopped);
      await patiently(() => store.agains.addEnded(again.id, ended));
      changes.tell({ type: 'again', id: again.id });
      if (again.untilFails && (ended.failed > 0 || (ended.code !== 0 && !stopped()))) break;
    }
    await patiently(() =>
      this.end(again.id, stopped() ? 'stopped' : 'done', this.closed ? 'Iskel was stopped while it ran' : null),
    );
  }

  private async once(
    again: Again,
    command: TestCommand,
    name: string,
    repetition: number,
    stopped: () => boolean,
  ): Promise<AgainEnded> {
    const { store, changes, intakes } = this.tools;
    const from = Date.now();
    const runId = store.runs.named(name, from);
    const last = store.agains.lastAttempt();
    store.runs.underWay = runId;
    let ended: { code: number | null; signal: string | null; problem?: string };
    try {
      ended = await this.run(again.id, command, this.callOf(command, again.tests, name, repetition));
    } finally {
      store.runs.underWay = undefined;
    }
    const problems = ended.problem ? [ended.problem] : [];
    if (!stopped())
      try {
        const { spool, files } = await reportsSince(command.folder, command.reports, from);
        if (files.length === 0) {
          spool.close();
          if (command.reports.length) problems.push(`it wrote nothing to ${command.reports.join(', ')}`);
        } else {
          const { problems: told } = await intakes.take(spool, files, { run: name, secrets: this.secretsOf(command) });
          problems.push(...told.map((one) => `${one.name}: ${one.message}`));
        }
      } catch (error) {
        problems.push(`its reports could not be taken in: ${(error as Error).message}`);
      }
    changes.tell({ type: 'run', id: runId });
    return {
      runId,
      code: ended.code,
      signal: ended.signal,
      from,
      until: Date.now(),
      ...store.agains.countAfter(runId, last),
      ...(problems.length ? { problem: problems.slice(0, 5).join('; ') } : {}),
    };
  }

  /** Runs the command once, to its end or ours. */
  private async run(
    id: string,
    command: TestCommand,
    { args, environment }: ReturnType<typeof againCall>,
  ): Promise<{ code: number | null; signal: string | null; problem?: string }> {
    const { owner } = this.tools;
    const { mark, folder } = owner.next();
    const child = spawn(command.program, args, {
      cwd: command.folder,
      // What it starts may start more: all of it bears our mark.
      env: { ...withoutOurs(process.env), ...command.environment, ...environment, [ownerVariable]: mark },
      stdio: ['ignore', 'pipe', 'pipe'],
      detached: true,
    });
    const endAll = (): void => {
      started.end();
      background('ending a test command', owner.end(mark, folder), id);
    };
    const out = this.writer(id, this.secretsOf(command));
    // What leaves its environment behind is known by whom it was started.
    const started = followed(child.pid);
    let problem: string | undefined;
    const tooLong = setTimeout(() => {
      problem = `it was ended after ${command.minutes} minutes`;
      endAll();
    }, command.minutes * 60_000);
    this.ending.set(id, endAll);
    child.stdout.setEncoding('utf8').on('data', (text: string) => out.write(text));
    child.stderr.setEncoding('utf8').on('data', (text: string) => out.write(text));
    try {
      return await new Promise((done) => {
        child.once('error', ({ message }) =>
          done({
            code: null,
            signal: null,
            problem: `“${command.program}” could not be started in ${command.folder}: ${message}; mend “${command.name}” in the settings file`,
          }),
        );
        child.once('exit', (code, signal) => {
          // A process it left may hold its output open: we wait no longer than for what is on its way.
          const told = { code, signal, ...(problem ? { problem } : {}) };
          child.once('close', () => done(told));
          setTimeout(() => done(told), 500).unref();
        });
      });
    } finally {
      clearTimeout(tooLong);
      this.ending.delete(id);
      out.close();
      started.end();
      await owner.end(mark, folder);
    }
  }

  /** What a command is given and nobody else is to read in what it writes. */
  private secretsOf({ environment }: TestCommand): string[] {
    const { token } = this.tools;
    return [...(token ? [token] : []), ...secretsIn(environment)];
  }

  /** Keeps what a command writes, masked, line by line. */
  private writer(id: string, secrets: readonly string[]): { write(text: string): void; close(): void } {
    const { store, changes, unsecret } = this.tools;
    const masker = store.rules.masker(secrets);
    let [open, ready] = ['', ''];
    let timer: NodeJS.Timeout | undefined;
    const flush = (): void => {
      timer = undefined;
      if (!ready) return;
      const text = ready;
      ready = '';
      background(
        'keeping what a test command wrote',
        patiently(() => store.agains.wrote(id, text)),
        id,
      );
      changes.tell({ type: 'again', id });
    };
    const take = (text: string): void => {
      try {
        ready += unsecret(masker.text(text));
      } catch {
        ready += `${maskMark}\n`;
      }
      timer ??= setTimeout(flush, tellEveryMs);
    };
    return {
      write: (text) => {
        open += text;
        const end = open.lastIndexOf('\n') + 1;
        // A secret is not to be cut in two by where a line is.
        if (end > 0 || open.length > mostLine) {
          const cut = end || open.length;
          take(open.slice(0, cut));
          open = open.slice(cut);
        }
      },
      close: () => {
        if (open) take(open.endsWith('\n') ? open : `${open}\n`);
        open = '';
        clearTimeout(timer);
        flush();
      },
    };
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const end of this.ending.values()) end();
    await Promise.race([this.running, new Promise((done) => setTimeout(done, 5000))]);
  }
}
