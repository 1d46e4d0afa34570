import { createServer, type Server } from 'node:http';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AddressInfo } from 'node:net';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startDriver, type DriverProcess } from '../src/browser/driver-process.ts';
import { findEngines } from '../src/browser/engines.ts';
import { Owner } from '../src/browser/owner.ts';
import { processesMarked } from '../src/browser/sweep.mjs';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { eventually, json, ready, startServerProcess, type ServerProcess, markOf } from './helpers.ts';

/** Real sessions in WebKit: the same answers as its driver gives, with what can be seen of it recorded. */

const page = `<!doctype html><html lang="en"><title>Harbour</title><style>body{margin:0;background:#fff}</style>
  <h1>Harbour</h1><button onclick="document.body.style.background='rgb(13,78,99)'">Sail</button>
  <input type="password" id="code"><input id="name"><input id="loud" oninput="alert('heard')"><input id="upper" oninput="this.value = ''"></html>`;
const key = 'element-6066-11e4-a52e-4f735466cecf';
let site: Server;
let address: string;
let server: ServerProcess;

beforeAll(async () => {
  site = createServer((_, response) => response.setHeader('content-type', 'text/html').end(page)).listen(
    0,
    '127.0.0.1',
  );
  await new Promise((done) => site.once('listening', done));
  address = `http://127.0.0.1:${(site.address() as AddressInfo).port}/`;
  server = await startServerProcess();
});
afterAll(async () => {
  await server.stop();
  site.closeAllConnections();
  site.close();
});

interface Opened {
  value: { sessionId: string; capabilities: Record<string, unknown> & { 'iskel:attempt': { id: string } } };
}
const open = async (more: object = {}): Promise<Opened['value']> => {
  const { status, body } = await json<Opened>('POST', `${server.address}/wd/session`, {
    capabilities: { alwaysMatch: { browserName: 'webkit', ...more } },
  });
  expect({ status, body }).toMatchObject({ status: 200 });
  return body.value;
};
const answerOf = async (base: string, method: string, path: string, body?: object) => {
  const answer = await fetch(`${base}${path}`, { method, ...(body ? { body: JSON.stringify(body) } : {}) });
  return { status: answer.status, type: answer.headers.get('content-type'), text: await answer.text() };
};

it('is listed among the engines, by name and version', async () => {
  const { body } = await json<{ engines: object[] }>('GET', `${server.address}/api/health`);
  expect(body.engines).toContainEqual({ name: 'webkit', version: expect.stringMatching(/^2\.\d+/) as string });
});

it('answers every command as its driver does, errors included', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'iskel-webkit-'));
  const owner = await Owner.start(folder);
  let driver: DriverProcess | undefined;
  try {
    const webkit = (await findEngines(owner)).find(({ name }) => name === 'webkit')!;
    driver = (await startDriver(webkit, owner)) as DriverProcess;
    const begun = await json<Opened>('POST', `${driver.base}/session`, {
      capabilities: {
        alwaysMatch: { 'webkitgtk:browserOptions': { binary: webkit.browser, args: ['--automation'] } },
      },
    });
    const ours = await open();
    const { 'iskel:attempt': attempt, ...capabilities } = ours.capabilities;
    expect(attempt.id).toMatch(/^a-/);
    expect(capabilities).toEqual(begun.body.value.capabilities);
    const bases = [
      `${driver.base}/session/${begun.body.value.sessionId}`,
      `${server.address}/wd/session/${ours.sessionId}`,
    ];
    const commands: [string, string, object?][] = [
      ['POST', '/url', { url: address }],
      ['GET', '/title'],
      ['POST', '/element', { using: 'css selector', value: '#nothing' }],
      ['POST', '/element', { using: 'no such way', value: '#nothing' }],
      ['POST', '/execute/sync', { script: 'return [1, {a: "ü"}, null]', args: [] }],
      ['POST', '/execute/sync', { script: 'throw new Error("no")', args: [] }],
      ['GET', '/alert/text'],
      ['POST', '/url', { url: 5 }],
      ['GET', '/cookie'],
      ['GET', '/nothing'],
      ['POST', '/window/rect', { width: 900, height: 700 }],
      ['POST', '/timeouts', { implicit: -1 }],
      ['DELETE', ''],
    ];
    for (const [method, path, body] of commands) {
      const [theirs, own] = await Promise.all(bases.map((base) => answerOf(base, method, path, body)));
      const ids = (text: string): string =>
        bases.reduce((all, base) => all.replaceAll(base.split('/').at(-1)!, 'ID'), text);
      expect({ path, ...own, text: ids(own!.text) }).toEqual({ path, ...theirs, text: ids(theirs!.text) });
    }
  } finally {
    await driver?.close();
    expect(owner.running()).toEqual([]);
    await owner.close();
    rmSync(folder, { recursive: true, force: true });
  }
}, 60_000);

it('records commands and pictures, says what it cannot see, and writes what was typed but for passwords', async () => {
  const { sessionId, capabilities } = await open({ 'iskel:attempt': { run: 'w', test: { title: 'sails' } } });
  const base = `${server.address}/wd/session/${sessionId}`;
  const send = async <T>(method: string, path: string, body?: object): Promise<T> =>
    (JSON.parse((await answerOf(base, method, path, body)).text) as { value: T }).value;
  await send('POST', '/window/rect', { width: 1000, height: 700 });
  await send('POST', '/url', { url: address });
  const type = async (css: string, text: string): Promise<void> => {
    const field = await send<Record<string, string>>('POST', '/element', { using: 'css selector', value: css });
    await send('POST', `/element/${field[key]}/value`, { text });
  };
  await type('#code', 'wave-4711');
  await type('#name', 'Selin Ak');
  await type('#upper', 'kuzu');
  const button = await send<Record<string, string>>('POST', '/element', { using: 'css selector', value: 'button' });
  await send('POST', `/element/${button[key]}/click`, {});
  const { id } = capabilities['iskel:attempt'];
  const events = async (): Promise<EvidenceEvent[]> =>
    (await json<{ events: EvidenceEvent[] }>('GET', `${server.address}/api/attempts/${id}/events`)).body.events;
  const frames = async (): Promise<{ blob: string; width: number; height: number }[]> =>
    (await events()).flatMap((event) => (event.lane === 'screen' && event.kind === 'frame' ? [event.data] : []));
  // The page is seen as it became after the press, without the bar of its window.
  await eventually(frames, (list) => list.length >= 2);
  const inner = await send<number>('POST', '/execute/sync', { script: 'return innerHeight', args: [] });
  await eventually(
    async () => {
      const last = (await frames()).at(-1)!;
      expect([last.width, last.height]).toEqual([1000, inner]);
      const bytes = Buffer.from(await (await fetch(`${server.address}/api/blobs/${last.blob}`)).arrayBuffer());
      const { data } = await sharp(bytes)
        .extract({ left: 900, top: inner - 60, width: 1, height: 1 })
        .raw()
        .toBuffer({ resolveWithObject: true });
      return [...data];
    },
    ([red, green, blue]) => Math.abs(red! - 13) + Math.abs(green! - 78) + Math.abs(blue! - 99) < 20,
  );
  await send('POST', '/iskel/outcome', { status: 'failed', message: 'expected "a" but got "b"' });
  await send('DELETE', '');
  const attempt = await ready(server.address, id);
  expect(attempt).toMatchObject({ outcome: 'failed', environment: { browser: 'webkit', width: 1000, height: 700 } });
  const all = await events();
  expect(all.flatMap((event) => (event.lane === 'step' ? [event.data.action] : []))).toEqual(
    expect.arrayContaining(['open', 'find', 'type', 'press']),
  );
  expect(all.find((event) => event.lane === 'note')).toMatchObject({
    data: { label: expect.stringContaining('Only commands and pictures are recorded') as string, ok: false },
  });
  expect(JSON.stringify(all)).not.toContain('wave-4711');
  const told = all.flatMap((event) =>
    event.lane === 'step' && event.data.action === 'type'
      ? [event.data.input]
      : event.lane === 'page' && event.kind === 'held-value'
        ? [event.data.text]
        : [],
  );
  expect(told).toEqual(['«masked»', '«masked»', 'Selin Ak', 'Selin Ak', 'kuzu', '']);
}, 60_000);

it('leaves a dialog that typing opened to the test', async () => {
  const { sessionId } = await open();
  const base = `${server.address}/wd/session/${sessionId}`;
  await answerOf(base, 'POST', '/url', { url: address });
  const found = await answerOf(base, 'POST', '/element', { using: 'css selector', value: '#loud' });
  const field = (JSON.parse(found.text) as { value: Record<string, string> }).value[key];
  await answerOf(base, 'POST', `/element/${field}/value`, { text: 'a' });
  expect(await answerOf(base, 'GET', '/alert/text')).toMatchObject({ status: 200, text: '{"value":"heard"}' });
  await answerOf(base, 'POST', '/alert/accept', {});
  await answerOf(base, 'DELETE', '');
}, 60_000);

it('is refused programs of others, and ended with a server that is killed', async () => {
  const refused = await json<{ value: { error: string; message: string } }>('POST', `${server.address}/wd/session`, {
    capabilities: { alwaysMatch: { browserName: 'webkit', 'webkitgtk:browserOptions': { binary: '/bin/sh' } } },
  });
  expect(refused).toMatchObject({ status: 400, body: { value: { error: 'invalid argument' } } });
  expect(refused.body.value.message).toContain('ISKEL_LAUNCH=any');
  const other = await startServerProcess();
  const begun = await json<Opened>('POST', `${other.address}/wd/session`, {
    capabilities: { alwaysMatch: { browserName: 'MiniBrowser' } },
  });
  expect(begun.status).toBe(200);
  const marked = (): number => processesMarked(markOf(other.data)).length;
  const before = marked();
  other.child.kill('SIGKILL');
  // Driver, screen, window, and the processes of the page.
  await eventually(marked, (count) => count === 0 && before >= 4);
  rmSync(other.data, { recursive: true, force: true });
}, 60_000);
