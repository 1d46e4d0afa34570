import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startDriver, type DriverProcess } from '../src/browser/driver-process.ts';
import { chromiumBy } from '../src/browser/engines.ts';
import { Owner } from '../src/browser/owner.ts';
import { forwarded, chromeArguments, startServerProcess, type ServerProcess } from './helpers.ts';
import { Names, play, send, type Answer } from './wire-play.ts';
import { wirePage } from './wire-page.ts';
import { script, type Call } from './wire-script.ts';

/** Plain HTTP calls, the same to chromedriver and to the recording endpoint: every answer must be the same. */

const execute = promisify(execFile);
let server: ServerProcess;
let owner: Owner;
let owned: string;
let direct: string;
let page: Awaited<ReturnType<typeof wirePage>>;

beforeAll(async () => {
  page = await wirePage();
  server = await startServerProcess();
  owned = mkdtempSync(join(tmpdir(), 'iskel-wire-'));
  owner = await Owner.start(owned);
  direct = await forwarded(((await startDriver(chromiumBy('chromedriver', ''), owner)) as DriverProcess).base);
});
afterAll(async () => {
  // Also what a failed comparison left open.
  await owner.close();
  rmSync(owned, { recursive: true, force: true });
  await server.stop();
  page.close();
});

describe('the recording endpoint against chromedriver', () => {
  it('answers every command the same, byte for byte but for ids', async () => {
    const calls = script(page.address);
    expect(
      new Set(calls.map(({ method, path }) => `${method} ${path.replace(/\$\w+/g, '{id}')}`)).size,
    ).toBeGreaterThanOrEqual(60);
    const plain = await play(direct, calls);
    const recorded = await play(`${server.address}/wd`, calls);
    for (let i = 0; i < plain.length; i++) expect(recorded[i], plain[i]!.call).toEqual(plain[i]);
    const errors = new Set(plain.flatMap(({ body }) => /"error":"([^"]+)"/.exec(body)?.[1] ?? []));
    for (const code of [
      'stale element reference',
      'element click intercepted',
      'no such element',
      'timeout',
      'script timeout',
      'no such alert',
      'no such frame',
      'no such window',
      'no such cookie',
      'invalid selector',
      'javascript error',
      'unknown command',
    ]) {
      expect(errors, code).toContain(code);
    }
  }, 180_000);

  it('serves a client of nothing but bash the same', async () => {
    const capabilities = JSON.stringify({
      capabilities: { alwaysMatch: { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments } } },
    });
    const run = async (base: string): Promise<string[]> => {
      const { hostname, port, pathname } = new URL(base);
      const path = pathname === '/' ? '' : pathname;
      const { stdout } = await execute(
        'bash',
        ['tests/shell-client.sh', hostname, port, path, page.address, capabilities],
        {
          maxBuffer: 16 * 1024 * 1024,
        },
      );
      const names = new Names();
      return stdout
        .trim()
        .split('\n')
        .map((line) => names.plain(line));
    };
    const plain = await run(direct);
    expect(plain).toHaveLength(17);
    expect(plain.join('\n')).toContain('stale element reference');
    expect(await run(`${server.address}/wd`)).toEqual(plain);
  });

  it.each([
    ['GET', '/status', undefined],
    ['POST', '/session', { wrong: true }],
    ['POST', '/session', { capabilities: { alwaysMatch: { browserName: 'nonesuch' } } }],
    ['POST', '/session', { capabilities: { alwaysMatch: { timeouts: 'wrong' } } }],
    ['GET', '/session/00000000000000000000000000000000/title', undefined],
    ['GET', '/no/such/path', undefined],
  ])('answers %s %s outside a session the same', async (method, path, body) => {
    const names = [new Names(), new Names()];
    const both = [await send(direct, method, path, body), await send(`${server.address}/wd`, method, path, body)].map(
      (answer, i) => ({ ...answer, body: names[i]!.plain(answer.body) }),
    );
    expect(both[1]).toEqual(both[0]);
  });

  it.each(['dismiss', 'accept', 'dismiss and notify', 'accept and notify', 'ignore'])(
    'treats dialogs nobody answered the same with “%s”',
    async (behaviour) => {
      const dialogs: Call[] = [
        { method: 'POST', path: '/url', body: { url: `${page.address}/` } },
        ...['#al', '#co'].flatMap((css, i): Call[] => [
          { method: 'POST', path: '/element', body: { using: 'css selector', value: css }, keep: `b${i}` },
          { method: 'POST', path: `/element/$b${i}/click`, body: {} },
          { method: 'GET', path: '/alert/text' },
          { method: 'GET', path: '/title' },
          { method: 'GET', path: '/title' },
          { method: 'POST', path: '/alert/dismiss', body: {} },
        ]),
      ];
      const plain = await play(direct, dialogs, { unhandledPromptBehavior: behaviour });
      const recorded = await play(`${server.address}/wd`, dialogs, { unhandledPromptBehavior: behaviour });
      expect(recorded).toEqual(plain);
    },
  );

  it('gives the same capabilities, and its own beside them', async () => {
    const asked = {
      capabilities: { alwaysMatch: { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments } } },
    };
    const [plain, recorded] = await Promise.all([
      send(direct, 'POST', '/session', asked),
      send(`${server.address}/wd`, 'POST', '/session', asked),
    ]);
    const read = (answer: Answer) =>
      JSON.parse(answer.body) as {
        value: { sessionId: string; capabilities: Record<string, Record<string, unknown>> };
      };
    const { 'iskel:attempt': own, ...given } = read(recorded).value.capabilities;
    expect(own!.id).toMatch(/^a-/);
    expect(Object.keys(given).sort()).toEqual(Object.keys(read(plain).value.capabilities).sort());
    expect(given.unhandledPromptBehavior).toEqual(read(plain).value.capabilities.unhandledPromptBehavior);
    await Promise.all([
      send(direct, 'DELETE', `/session/${read(plain).value.sessionId}`),
      send(`${server.address}/wd`, 'DELETE', `/session/${read(recorded).value.sessionId}`),
    ]);
  });

  it('refuses launch options that reach beyond the page, naming the setting', async () => {
    for (const options of [
      { binary: '/bin/sh' },
      { args: ['--renderer-cmd-prefix=sh'] },
      { debuggerAddress: '127.0.0.1:1' },
      { prefs: { 'download.default_directory': '/' } },
    ]) {
      const answer = await send(`${server.address}/wd`, 'POST', '/session', {
        capabilities: { alwaysMatch: { 'goog:chromeOptions': options } },
      });
      expect(answer.status).toBe(400);
      expect(answer.body).toContain('ISKEL_LAUNCH=any');
    }
  });

  it('hands a BiDi socket through to a client that asks for one', async () => {
    const asked = {
      capabilities: {
        alwaysMatch: { browserName: 'chrome', webSocketUrl: true, 'goog:chromeOptions': { args: chromeArguments } },
      },
    };
    const { value } = JSON.parse((await send(`${server.address}/wd`, 'POST', '/session', asked)).body) as {
      value: { sessionId: string; capabilities: { webSocketUrl: string } };
    };
    expect(value.capabilities.webSocketUrl).toBe(
      `${server.address.replace('http', 'ws')}/wd/session/${value.sessionId}`,
    );
    const { WebSocket } = await import('ws');
    const socket = new WebSocket(value.capabilities.webSocketUrl);
    await new Promise((done) => socket.once('open', done));
    const answer = new Promise<string>((done) => socket.once('message', (data: Buffer) => done(data.toString())));
    socket.send(JSON.stringify({ id: 7, method: 'browsingContext.getTree', params: {} }));
    expect(JSON.parse(await answer)).toMatchObject({ id: 7, type: 'success' });
    socket.close();
    await send(`${server.address}/wd`, 'DELETE', `/session/${value.sessionId}`);
  });
});
