import { spawn, type ChildProcess, type StdioOptions } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { constants as system, tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RecordingTask } from '../browser/devtools/recording-thread.ts';
import { spoolFolder } from '../browser/devtools/spool.ts';
import { freePort } from '../browser/free-port.ts';
import { startKeeper, withoutOurs } from '../browser/owner.ts';
import { ownerVariable } from '../browser/sweep.mjs';
import { details } from '../core/records.ts';

const usualServer = 'http://127.0.0.1:4870';
/** How a browser ends that broke down. */
const crashes = new Set(['SIGSEGV', 'SIGABRT', 'SIGILL', 'SIGBUS', 'SIGTRAP', 'SIGFPE']);
const { env } = process;

/** What the browser was started with, which it is started with again. */
export const args: readonly string[] = process.argv.slice(2);

/** Said where whoever runs the tests sees it. */
export const say = (text: string): void => console.error(`iskel browser: ${text}`);

/** The real browser, and how it ends. */
export interface RealBrowser {
  child: ChildProcess;
  gone: Promise<{ code: number | null; signal: NodeJS.Signals | null }>;
}

/** @param isKept whether somebody else has to end it when we are killed; over a pipe it ends by itself */
export function startReal(
  program: string,
  given: readonly string[],
  stdio: StdioOptions,
  isKept: boolean,
): RealBrowser {
  const child = spawn(program, given, { stdio, env: { ...withoutOurs(env), ...(isKept ? kept() : {}) } });
  for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP'] as const) process.on(signal, () => child.kill(signal));
  const gone = new Promise<Awaited<RealBrowser['gone']>>((done) => {
    child.once('exit', (code, signal) => done({ code, signal }));
    child.once('error', (error) => {
      say(error.message);
      done({ code: 127, signal: null });
    });
  });
  return { child, gone };
}

/** A browser that is left when we are killed is ended by a keeper. */
function kept(): NodeJS.ProcessEnv {
  const key = `browser-${randomBytes(6).toString('hex')}`;
  const folder = mkdtempSync(join(tmpdir(), 'iskel-browser-'));
  startKeeper(key, folder);
  process.on('exit', () => rmSync(folder, { recursive: true, force: true }));
  return { [ownerVariable]: key };
}

/** Where the browser itself listens, which its client does not see: any port where the client left it open. */
export const ownPort = async (asked: number): Promise<number> => (asked === 0 ? 0 : freePort());

/** Why what a browser did ended, where it broke down. */
export const brokeDown = (signal: NodeJS.Signals | null): string | undefined =>
  signal !== null && crashes.has(signal) ? `the browser broke down (${signal})` : undefined;

/** Ends as the browser did. */
export function endAs({ code, signal }: Awaited<RealBrowser['gone']>): void {
  if (signal === null) process.exit(code ?? 0);
  process.removeAllListeners(signal);
  process.kill(process.pid, signal);
  // A signal that is ignored ends nobody.
  setTimeout(() => process.exit(128 + (system.signals[signal] ?? 0)), 200);
}

/** What a recorder is to do, as the environment says. */
export function recordingTask(): RecordingTask {
  const { ISKEL_RUN: run, ISKEL_TEST: title, ISKEL_DETAIL: asked = '' } = env;
  const detail = details.find((one) => one === asked);
  return {
    // It says nothing of whose they are: pages may see it.
    name: `u${randomBytes(8).toString('hex')}`,
    request: { ...(run ? { run } : {}), ...(title ? { test: { title } } : {}), ...(detail ? { detail } : {}) },
    to: (env.ISKEL_URL ?? usualServer).replace(/\/$/, ''),
    token: env.ISKEL_TOKEN || undefined,
    spool: spoolFolder(env),
    later: env.ISKEL_DELIVER === 'later',
  };
}
