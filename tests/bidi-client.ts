import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import WebSocket from 'ws';

/** A small BiDi client of ours that starts a Firefox itself: it knows a path of a browser, and nothing of Iskel. */

type Json = Record<string, unknown>;

export interface BidiClient {
  /** Rejects with the whole refusal, as a text. */
  send: <T = Json>(method: string, params?: Json) => Promise<T>;
  /** Everything that was told, in its order: events and answers. */
  told: readonly Json[];
  stderr: () => string;
  /** What the browser left in its profile of where it listens. */
  left: () => string;
  address: string;
  close: () => Promise<{ code: number | null; signal: string | null }>;
}

export async function ownFirefox(path: string, env: Record<string, string>, ...more: string[]): Promise<BidiClient> {
  const profile = mkdtempSync(join(tmpdir(), 'iskel-firefox-'));
  const child = spawn(
    path,
    ['--headless', '--profile', profile, '--remote-debugging-port', '0', ...more, 'about:blank'],
    {
      stdio: ['ignore', 'ignore', 'pipe'],
      env: { ...process.env, ...env },
    },
  );
  let said = '';
  child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
  const ended = new Promise<{ code: number | null; signal: string | null }>((done) =>
    child.once('exit', (code, signal) => {
      void rm(profile, { recursive: true, force: true, maxRetries: 30, retryDelay: 200 }).catch(() => undefined);
      done({ code, signal });
    }),
  );
  const address = await new Promise<string>((done, fail) => {
    child.stderr.on('data', () => {
      const found = /WebDriver BiDi listening on (ws:\S+)/.exec(said)?.[1];
      if (found) done(found);
    });
    child.once('exit', (code) => fail(new Error(`it ended with ${code}: ${said}`)));
  });
  const socket = new WebSocket(`${address}/session`, { perMessageDeflate: false, maxPayload: 256 * 1024 * 1024 });
  await new Promise((done, fail) => {
    socket.once('open', done);
    socket.once('error', fail);
  });
  let count = 0;
  const told: Json[] = [];
  const waiting = new Map<unknown, (message: Json) => void>();
  socket.on('message', (data: Buffer) => {
    const message = JSON.parse(data.toString()) as Json;
    told.push(message);
    waiting.get(message.id)?.(message);
    waiting.delete(message.id);
  });
  const send = <T = Json>(method: string, params: Json = {}): Promise<T> =>
    new Promise((done, fail) => {
      waiting.set(++count, (message) => {
        if (message.type === 'error') fail(new Error(`${String(message.error)}: ${String(message.message)}`));
        else done(message.result as T);
      });
      socket.send(JSON.stringify({ id: count, method, params }));
    });
  return {
    send,
    told,
    stderr: () => said,
    left: () => readFileSync(join(profile, 'WebDriverBiDiServer.json'), 'utf8'),
    address,
    close: async () => {
      await send('browser.close').catch(() => undefined);
      return ended;
    },
  };
}
