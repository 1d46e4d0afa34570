import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Readable, Writable } from 'node:stream';
import WebSocket from 'ws';
import { standInPath } from '../src/browser/devtools/stand-in-path.ts';

/** Small DevTools clients of ours, as different runners work: they know a path of a browser, and nothing of Iskel. */

type Json = Record<string, unknown>;
export type Send = <T = Json>(method: string, params?: Json, session?: string) => Promise<T>;

type Listener = (method: string, params: Json, session?: string) => void;

export interface Client {
  child: ChildProcess;
  send: Send;
  /** The next event of a name, in a session. */
  next: (method: string, session?: string) => Promise<Json>;
  /** Hears every event. */
  heard: (listener: Listener) => void;
  stderr: () => string;
  profile: string;
  /** Ends the browser and waits for its process. @returns how it ended */
  close: () => Promise<{ code: number | null; signal: string | null }>;
}

export const standIn = standInPath;
const usual = ['--headless=new', '--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking'];

function speaker(
  write: (text: string) => void,
): Pick<Client, 'send' | 'next' | 'heard'> & { hear: (text: string) => void } {
  let count = 0;
  const waiting = new Map<number, { done: (value: never) => void; fail: (error: Error) => void }>();
  const listeners = new Set<Listener>();
  return {
    heard: (listener) => void listeners.add(listener),
    send: (method, params = {}, session) =>
      new Promise((done, fail) => {
        waiting.set(++count, { done, fail });
        write(JSON.stringify({ id: count, method, params, ...(session ? { sessionId: session } : {}) }));
      }),
    next: (method, session) =>
      new Promise((done) => {
        const listener = (name: string, params: Json, from?: string): void => {
          if (name !== method || from !== session) return;
          listeners.delete(listener);
          done(params);
        };
        listeners.add(listener);
      }),
    hear: (text) => {
      const message = JSON.parse(text) as {
        sessionId?: string;
        id?: number;
        result?: never;
        error?: Json;
        method?: string;
        params?: Json;
      };
      if (message.method) for (const one of listeners) one(message.method, message.params ?? {}, message.sessionId);
      const one = waiting.get(message.id ?? 0);
      if (!one) return;
      waiting.delete(message.id!);
      if (message.error) one.fail(new Error(JSON.stringify(message.error)));
      else one.done(message.result!);
    },
  };
}

function started(args: string[], env: Record<string, string>, piped: boolean, path: string) {
  const profile = mkdtempSync(join(tmpdir(), 'iskel-profile-'));
  const child = spawn(path, [...usual, `--user-data-dir=${profile}`, ...args, 'about:blank'], {
    stdio: ['ignore', 'ignore', 'pipe', ...(piped ? (['pipe', 'pipe'] as const) : [])],
    env: { ...process.env, ...env },
  });
  let said = '';
  child.stderr!.on('data', (chunk: Buffer) => (said += chunk.toString()));
  const ended = new Promise<{ code: number | null; signal: string | null }>((done) =>
    child.once('exit', (code, signal) => {
      // A killed browser's processes write on for a moment.
      void rm(profile, { recursive: true, force: true, maxRetries: 30, retryDelay: 200 }).catch(() => undefined);
      done({ code, signal });
    }),
  );
  return { profile, child, ended, stderr: () => said };
}

/** Speaks over the pipe. */
export function overPipe(env: Record<string, string>, path = standIn): Client {
  const { child, ended, stderr, profile } = started(['--remote-debugging-pipe'], env, true, path);
  const [, , , commands, answers] = child.stdio as unknown as [null, null, null, Writable, Readable];
  const { send, next, heard, hear } = speaker((text) => commands.write(`${text}\0`));
  commands.on('error', () => undefined);
  let rest = '';
  answers.on('data', (chunk: Buffer) => {
    const parts = (rest + chunk.toString()).split('\0');
    rest = parts.pop()!;
    parts.forEach(hear);
  });
  const close = (): typeof ended => {
    send('Browser.close').catch(() => undefined);
    return ended;
  };
  return { child, send, next, heard, stderr, profile, close };
}

/** Speaks over the port that the browser announces. */
export async function overPort(
  env: Record<string, string>,
  port = 0,
  path = standIn,
): Promise<Client & { address: string }> {
  const { child, ended, stderr, profile } = started([`--remote-debugging-port=${port}`], env, false, path);
  const address = await new Promise<string>((done, fail) => {
    const look = (): void => {
      const found = /DevTools listening on (ws:\S+)/.exec(stderr())?.[1];
      if (found) done(found);
    };
    child.stderr!.on('data', look);
    child.once('exit', (code) => fail(new Error(`it ended with ${code}: ${stderr()}`)));
  });
  const socket = new WebSocket(address, { perMessageDeflate: false, maxPayload: 512 * 1024 * 1024 });
  await new Promise((done, fail) => {
    socket.once('open', done);
    socket.once('error', fail);
  });
  const { send, next, heard, hear } = speaker((text) => socket.send(text));
  socket.on('message', (data: Buffer) => hear(data.toString()));
  const close = (): typeof ended => {
    send('Browser.close').catch(() => undefined);
    return ended;
  };
  return { child, send, next, heard, stderr, profile, close, address };
}

/** A page in a context of its own, or in the one that is there, with what tests do to it. */
export async function openPage({ send, next }: Pick<Client, 'send' | 'next'>, isolated: boolean) {
  const context = isolated
    ? (await send<{ browserContextId: string }>('Target.createBrowserContext')).browserContextId
    : undefined;
  const { targetId } = await send<{ targetId: string }>('Target.createTarget', {
    url: 'about:blank',
    ...(context ? { browserContextId: context } : {}),
  });
  const { sessionId } = await send<{ sessionId: string }>('Target.attachToTarget', { targetId, flatten: true });
  const tell: Send = (method, params = {}) => send(method, params, sessionId);
  await Promise.all([tell('Page.enable'), tell('Runtime.enable')]);
  const read = async <T>(expression: string): Promise<T> =>
    (await tell<{ result: { value: T } }>('Runtime.evaluate', { expression, returnByValue: true })).result.value;
  const centre = (selector: string): Promise<{ x: number; y: number }> =>
    read(
      `(() => { const r = document.querySelector(${JSON.stringify(selector)}).getBoundingClientRect(); return { x: r.x + r.width / 2, y: r.y + r.height / 2 }; })()`,
    );
  return {
    targetId,
    tell,
    read,
    open: async (url: string): Promise<void> => {
      const loaded = next('Page.loadEventFired', sessionId);
      await tell('Page.navigate', { url });
      await loaded;
    },
    until: async (expression: string, limitMs = 5000): Promise<boolean> => {
      for (const end = Date.now() + limitMs; ;) {
        if (await read<boolean>(expression)) return true;
        if (Date.now() > end) return false;
        await new Promise((done) => setTimeout(done, 100));
      }
    },
    press: async (selector: string): Promise<{ x: number; y: number }> => {
      const at = await centre(selector);
      for (const type of ['mouseMoved', 'mousePressed', 'mouseReleased'])
        await tell('Input.dispatchMouseEvent', { type, ...at, button: 'left', clickCount: 1 });
      return at;
    },
    type: async (text: string): Promise<void> => {
      for (const key of text) {
        await tell('Input.dispatchKeyEvent', { type: 'keyDown', key, text: key });
        await tell('Input.dispatchKeyEvent', { type: 'keyUp', key });
      }
    },
    close: async (): Promise<void> => {
      if (context) await send('Target.disposeBrowserContext', { browserContextId: context });
      else await send('Target.closeTarget', { targetId });
    },
  };
}
