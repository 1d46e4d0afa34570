// Stands in for Chromium: starts the real one with the same arguments, hands the DevTools protocol through untouched, and
// records beside it. Whatever becomes of the recording, the browser runs.
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { constants as system, tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Readable, Writable } from 'node:stream';
import type { Worker } from 'node:worker_threads';
import { announced, clientPipe, passPort, type Tap } from '../browser/devtools/passing.ts';
import type { Door, Heard, Passed, RecordingTask, Told } from '../browser/devtools/recording-thread.ts';
import { SharedPipe } from '../browser/devtools/shared-pipe.ts';
import { spoolFolder } from '../browser/devtools/spool.ts';
import { chromiumNames, chromiumOnPath } from '../browser/devtools/real-browser.ts';
import { freePort } from '../browser/free-port.ts';
import { startKeeper, withoutOurs } from '../browser/owner.ts';
import { clock } from '../browser/recording/clock.ts';
import { ownerVariable } from '../browser/sweep.mjs';
import { details } from '../core/records.ts';
import { startThread } from '../server/jobs/thread.ts';

/** A client's first command waits no longer than this for the recorder to stand, ms. */
const standMs = 3000;
/** Once the browser is gone, what was recorded is written and delivered within this, ms; the rest is delivered another time. */
const deliverMs = 3000;
/** More than this unread by the recorder, and it is given up: nobody waits for it. */
const mostUnread = 512 * 1024 * 1024;
/** How often the recorder is told what was passed on, ms. */
const tellEveryMs = 10;
const usualServer = 'http://127.0.0.1:4870';
/** How a browser ends that broke down. */
const crashes = new Set(['SIGSEGV', 'SIGABRT', 'SIGILL', 'SIGBUS', 'SIGTRAP', 'SIGFPE']);

const args = process.argv.slice(2);
const { env } = process;

/** The real browser: as the settings say, else the first of its names on the path that is not this program. */
function realBrowser(): string {
  const found = env.ISKEL_CHROMIUM ?? chromiumOnPath(env.PATH);
  if (found) return found;
  console.error(
    `iskel browser: found none of ${chromiumNames.join(', ')} on the path; say where it is with ISKEL_CHROMIUM`,
  );
  process.exit(127);
}

const argument = (name: string): string | undefined => {
  const found = args.find((one) => one === name || one.startsWith(`${name}=`));
  return found?.slice(name.length + 1);
};
const theirEnv = withoutOurs(env);

/** Ends as the browser did. */
function endAs(code: number | null, signal: NodeJS.Signals | null): void {
  if (signal === null) process.exit(code ?? 0);
  process.removeAllListeners(signal);
  process.kill(process.pid, signal);
  // A signal that is ignored ends nobody.
  setTimeout(() => process.exit(128 + (system.signals[signal] ?? 0)), 200);
}

function passSignals(child: ChildProcess): void {
  for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP'] as const) process.on(signal, () => child.kill(signal));
}

/** What the environment tells of the test that is run. */
function request(): RecordingTask['request'] {
  const { ISKEL_RUN: run, ISKEL_TEST: title, ISKEL_DETAIL: asked = '' } = env;
  const detail = details.find((one) => one === asked);
  return { ...(run ? { run } : {}), ...(title ? { test: { title } } : {}), ...(detail ? { detail } : {}) };
}

/** A recorder in a thread of its own, fed with what is passed on. */
class Recorder {
  private readonly thread: Worker;
  private unread = 0;
  private lately: Passed[] = [];
  private telling: NodeJS.Timeout | undefined;
  private lost = false;
  private finished: () => void = () => undefined;
  private ours: Buffer[] = [];
  readonly stands: Promise<void>;
  /** Says something of ours to the browser. */
  say: (command: string) => void = () => undefined;
  /** The recorder is gone, before its browser. */
  onLost: () => void = () => undefined;

  constructor(task: RecordingTask) {
    this.thread = startThread(new URL('../browser/devtools/recording-thread.ts', import.meta.url), { ...task });
    this.stands = new Promise((done) => {
      const timer = setTimeout(done, standMs);
      const over = (): void => {
        this.lost = true;
        clearTimeout(timer);
        done();
        this.finished();
        this.onLost();
      };
      this.thread.on('message', (told: Told) => {
        if ('read' in told) this.unread -= told.read;
        else if ('say' in told) this.say(told.say);
        else if ('trouble' in told) console.error(`iskel browser: ${told.trouble}`);
        else if ('done' in told) this.finished();
        else {
          clearTimeout(timer);
          done();
        }
      });
      this.thread.on('error', over);
      this.thread.on('exit', over);
    });
  }

  watchFrom(door: Door): void {
    if (!this.lost) this.tell({ door });
  }

  /** What the browser says to us is answered soon: it is not held back for others. */
  hearOurs(message: Buffer): void {
    if (this.lost) return;
    if (this.ours.push(message) > 1) return;
    setImmediate(() => {
      if (!this.lost) this.tell({ ours: this.ours });
      this.ours = [];
    });
  }

  hear(passed: Passed & { chunk: Buffer }): void {
    if (this.lost) return;
    this.unread += passed.chunk.length;
    if (this.unread > mostUnread) {
      this.lost = true;
      this.thread.terminate().catch(() => undefined);
      return;
    }
    this.lately.push(passed);
    // A thread that is woken for every piece takes the processor from those who drive and are driven.
    this.telling ??= setTimeout(() => this.tellLately(), tellEveryMs);
  }

  private tellLately(): void {
    clearTimeout(this.telling);
    this.telling = undefined;
    const passed = this.lately;
    this.lately = [];
    if (passed.length && !this.lost) this.tell({ passed });
  }

  private tell(heard: Heard): void {
    this.thread.postMessage(heard);
  }

  async end(interrupted?: string): Promise<void> {
    this.tellLately();
    if (this.lost) return;
    const ended = new Promise<void>((done) => (this.finished = done));
    this.tell({ ended: true, limitMs: deliverMs, ...(interrupted ? { interrupted } : {}) });
    await Promise.race([ended, new Promise((done) => setTimeout(done, deliverMs + 500))]);
  }
}

/** A browser that is left when we are killed is ended by a keeper; over a pipe it ends by itself. */
function kept(): NodeJS.ProcessEnv {
  const key = `browser-${randomBytes(6).toString('hex')}`;
  const folder = mkdtempSync(join(tmpdir(), 'iskel-browser-'));
  startKeeper(key, folder);
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
  return { [ownerVariable]: key };
}

/** Where the browser itself listens, which its client does not see: any port where the client left it open. */
const ownPort = async (asked: number): Promise<number> => (asked === 0 ? 0 : freePort());

async function record(program: string, piped: boolean, asked: number | undefined): Promise<void> {
  // Without a port of the client's there is none at all: we share its pipe.
  const given = args.filter((one) => !/^--remote-debugging-(?:port|address)\b/.test(one));
  const port = asked === undefined ? [] : [`--remote-debugging-port=${await ownPort(asked)}`];
  const child = spawn(program, [...given, ...port], {
    stdio: ['inherit', 'inherit', 'pipe', ...(piped ? (['pipe', 'pipe'] as const) : [])],
    env: { ...theirEnv, ...(asked === undefined ? {} : kept()) },
  });
  passSignals(child);
  const gone = new Promise<[number | null, NodeJS.Signals | null]>((done) => {
    child.once('exit', (code, signal) => done([code, signal]));
    child.once('error', (error) => {
      console.error(`iskel browser: ${error.message}`);
      done([127, null]);
    });
  });
  // It says nothing of whose they are: pages may see it.
  const name = `u${randomBytes(8).toString('hex')}`;
  const recorder = new Recorder({
    name,
    request: request(),
    to: (env.ISKEL_URL ?? usualServer).replace(/\/$/, ''),
    token: env.ISKEL_TOKEN || undefined,
    spool: spoolFolder(env),
    later: env.ISKEL_DELIVER === 'later',
  });
  const tap =
    (over: 'pipe' | 'port'): Tap =>
    (from, connection, chunk) =>
      recorder.hear({ from, connection, over, chunk, at: clock() });
  if (asked === undefined) child.stderr!.pipe(process.stderr);
  else child.stderr!.pipe(announced((line) => listening(line, asked))).pipe(process.stderr);

  async function listening(line: string, wanted: number): Promise<string> {
    const [, browserPort, path = ''] = /:(\d+)(\/devtools\/browser\/\S+)/.exec(line) ?? [];
    if (!piped) recorder.watchFrom(`127.0.0.1:${browserPort}`);
    await recorder.stands;
    const host = argument('--remote-debugging-address') ?? '127.0.0.1';
    const server = await passPort(host, wanted, Number(browserPort), tap('port'));
    const ours = (server.address() as { port: number }).port;
    // Where any port would do, the browser leaves in its profile which it took.
    const profile = argument('--user-data-dir');
    if (wanted === 0 && profile) writeFileSync(join(profile, 'DevToolsActivePort'), `${ours}\n${path}`);
    return line.replace(`:${browserPort}/`, `:${ours}/`);
  }

  if (piped) {
    const [, , , commands, answers] = child.stdio as unknown as [0, 0, 0, Writable, Readable];
    const shared = new SharedPipe({ commands, answers }, tap('pipe'), (message) => recorder.hearOurs(message), name);
    recorder.say = (command) => shared.send(command);
    recorder.onLost = () => shared.release();
    recorder.watchFrom('pipe');
    await Promise.race([recorder.stands, gone]);
    shared.join(clientPipe());
  }
  const [code, signal] = await gone;
  await recorder.end(signal !== null && crashes.has(signal) ? `the browser broke down (${signal})` : undefined);
  endAs(code, signal);
}

const program = realBrowser();
const pipe = args.find((one) => /^--remote-debugging-pipe\b/.test(one));
const piped = pipe !== undefined;
/** Messages of that kind are passed on and not understood. */
const unread = piped && /=cbor$/i.test(pipe);
if (unread && env.ISKEL_DETAIL !== 'none')
  console.error('iskel browser: not recorded: its client speaks CBOR over the pipe, which is not read');
const asked = argument('--remote-debugging-port');
if ((piped || asked !== undefined) && !unread && env.ISKEL_DETAIL !== 'none')
  await record(program, piped, asked === undefined ? undefined : Number(asked) || 0);
else {
  // Nobody will drive it, or nothing is to be recorded: the client's pipe, where there is one, is the browser's own.
  const stdio = piped ? Array<'inherit'>(5).fill('inherit') : 'inherit';
  const child = spawn(program, args, { stdio, env: theirEnv });
  passSignals(child);
  child.once('exit', endAs);
  child.once('error', (error) => {
    console.error(`iskel browser: ${error.message}`);
    process.exit(127);
  });
}
