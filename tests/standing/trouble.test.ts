import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import { describe, expect, it } from 'vitest';
import { processesMarked } from '../../src/browser/sweep.mjs';
import { Changes } from '../../src/server/changes.ts';
import { DataLock } from '../../src/server/data-lock.ts';
import { AnalysisJobs } from '../../src/server/jobs/analysis.ts';
import { Store } from '../../src/server/store/store.ts';
import { eventually, json, markOf, ready, startServerProcess } from '../helpers.ts';
import { faults, open, server, setTheScene, stepsOf } from './trouble-scene.ts';

/** What else can go wrong around a recording, brought about on a running server: it costs what it must and no more. */

setTheScene();

describe('an analysis', () => {
  it('that does not end is told, and not tried for ever', async () => {
    const home = mkdtempSync(join(tmpdir(), 'iskel-hung-'));
    const store = new Store(home);
    const run = store.runs.named('r', 1_795_428_000_000);
    const environment = { browser: 'chromium', version: '1' };
    const id = store.attempts.begin({
      runId: run,
      test: { suite: '', title: 't' },
      environment,
      startedAt: 1_795_428_000_000,
    });
    store.attempts.outcome(id, 'failed', 'late', '');
    store.attempts.end(id, 10);
    // No thread answers within a millisecond of being started.
    const jobs = new AnalysisJobs(store, new Changes(), pino({ level: 'silent' }), 1);
    jobs.settle(id);
    await eventually(
      () => store.attempts.get(id)!.state,
      (state) => state === 'ready',
    );
    const [note] = store.events.ofLanes(id, ['note'], 5);
    expect(note?.data).toMatchObject({
      ok: false,
      label: expect.stringContaining('took longer than Iskel waits') as string,
    });
    await jobs.close();
    store.close();
    const next = new Store(home);
    const again = new AnalysisJobs(next, new Changes(), pino({ level: 'silent' }), 1);
    again.resume();
    expect(next.attempts.inState('settling')).toEqual([]);
    expect(next.attempts.get(id)!.state).toBe('ready');
    await again.close();
    next.close();
    rmSync(home, { recursive: true, force: true });
  });
});

describe('launching', () => {
  it.each([
    ['PUT', '/session'],
    ['POST', '/session/'],
    ['POST', '//session'],
    ['POST', '/Session'],
    ['POST', '/%73ession'],
    ['POST', '/session/../session'],
  ])('%s %s begins nothing', async (method, path) => {
    const { hostname, port, host } = new URL(server.address);
    const body = JSON.stringify({
      capabilities: { alwaysMatch: { 'goog:chromeOptions': { binary: '/bin/sh' } } },
      desiredCapabilities: { 'goog:chromeOptions': { binary: '/bin/sh' } },
    });
    const text = await new Promise<string>((done) => {
      const socket = connect(Number(port), hostname);
      let said = '';
      socket.on('data', (chunk) => (said += chunk.toString()));
      socket.on('close', () => done(said));
      socket.write(
        `${method} /wd${path} HTTP/1.1\r\nhost: ${host}\r\ncontent-type: application/json\r\nconnection: close\r\ncontent-length: ${body.length}\r\n\r\n${body}`,
      );
    });
    expect(text).toMatch(/^HTTP\/1\.1 40[045]/);
    expect(text).toMatch(/"error":"unknown (?:command|method)"/);
  });

  it.each([
    [{ desiredCapabilities: { 'goog:chromeOptions': { binary: '/bin/sh' } } }, 'invalid argument'],
    [{ capabilities: [] }, 'invalid argument'],
    [{ capabilities: { alwaysMatch: [] } }, 'invalid argument'],
    [{ capabilities: { firstMatch: 'x' } }, 'invalid argument'],
    [{ capabilities: { firstMatch: [7] } }, 'invalid argument'],
    [
      { capabilities: { alwaysMatch: { 'goog:chromeOptions': { prefs: { download: { default_directory: '/' } } } } } },
      'invalid argument',
    ],
    [
      { capabilities: { alwaysMatch: { 'goog:chromeOptions': { prefs: { 'download.x': { 'y.path': 1 } } } } } },
      'invalid argument',
    ],
    [
      { capabilities: { alwaysMatch: { 'goog:chromeOptions': { prefs: { homepage: 'file:///etc/passwd' } } } } },
      'invalid argument',
    ],
    [{ capabilities: { alwaysMatch: { 'goog:chromeOptions': { args: [{ toString: 1 }] } } } }, 'invalid argument'],
  ])('%j is refused', async (body, error) => {
    const answer = await json<{ value: { error: string } }>('POST', `${server.address}/wd/session`, body);
    expect(answer.status).toBe(400);
    expect(answer.body.value.error).toBe(error);
  });

  it('opens nothing of this machine, by no way', async () => {
    const driver = await open('file');
    const send = (path: string, body: object): Promise<unknown> => driver.send('POST', path, body);
    for (const url of [
      'file:///etc/passwd',
      'chrome://version',
      'view-source:file:///etc/passwd',
      ' FiLe:///etc/passwd',
    ])
      await expect(send('/url', { url })).rejects.toThrow(/ISKEL_LAUNCH=any/);
    for (const body of [
      { cmd: 'Page.navigate', params: { url: 'file:///etc/passwd' } },
      { cmd: 'Browser.setDownloadBehavior', params: { behavior: 'allow', downloadPath: '/tmp' } },
      { cmd: 'Target.createTarget', params: { url: 'file:///etc/passwd' } },
    ])
      await expect(send('/goog/cdp/execute', body)).rejects.toThrow(/ISKEL_LAUNCH=any/);
    await send('/goog/cdp/execute', { cmd: 'Network.enable', params: {} });
    await driver.quit();
  });

  it('gives drivers and browsers nothing that is for us alone', async () => {
    const here = await startServerProcess({ env: { ISKEL_SECRET_PASSENGER: 'lantern-77', ISKEL_TOKEN: '' } });
    const driver = await open('environment', here);
    const seen = processesMarked(markOf(here.data)).map((pid) => {
      try {
        return readFileSync(`/proc/${pid}/environ`, 'utf8');
      } catch {
        return '';
      }
    });
    expect(seen.length).toBeGreaterThan(3);
    expect(seen.join('')).not.toMatch(/lantern-77|ISKEL_TOKEN|ISKEL_SECRET/);
    await driver.quit();
    await here.stop();
  });
});

describe('the data lock', () => {
  it('is one server’s at a time, and gone with it', () => {
    const home = mkdtempSync(join(tmpdir(), 'iskel-lock-'));
    const lock = DataLock.take(home);
    expect(() => DataLock.take(home)).toThrow(/in use by process/);
    lock.release();
    DataLock.take(home).release();
    rmSync(home, { recursive: true, force: true });
  });

  it('knows a number that another program has by now', async () => {
    const home = mkdtempSync(join(tmpdir(), 'iskel-lock-'));
    mkdirSync(home, { recursive: true });
    // A file left by a server that was killed, whose number this very Node process has now.
    writeFileSync(join(home, 'server.pid'), String(process.pid));
    const here = await startServerProcess({ data: home });
    expect((await json('GET', `${here.address}/api/health`)).status).toBe(200);
    await expect(startServerProcess({ data: home })).rejects.toThrow(/ended with 1/);
    await here.stop();
    rmSync(home, { recursive: true, force: true });
  });
});

it('an odd request is the fault of who sent it', async () => {
  const call = async (method: string, path: string, headers: Record<string, string>, body?: string): Promise<number> =>
    (await fetch(server.address + path, { method, headers, ...(body === undefined ? {} : { body }) })).status;
  const typed = { 'content-type': 'application/json' };
  expect(await call('GET', '/api/runs?limit=-1', {})).toBe(400);
  expect(await call('GET', '/api/runs?limit=1.5', {})).toBe(400);
  expect(await call('GET', '/api/attempts/%E0%A4%A', {})).toBe(400);
  const begun = (startedAt: unknown, number: unknown = 1): string =>
    JSON.stringify({ run: 'odd', test: { title: 't' }, startedAt, number });
  expect(await call('POST', '/api/attempts', typed, begun(9e15))).toBe(400);
  expect(await call('POST', '/api/attempts', typed, begun(1, 1e300))).toBe(400);
  expect(await call('POST', '/api/attempts', { 'content-type': 'text/plain' }, begun(1))).toBe(415);
  expect(await call('POST', '/api/drills', typed, `{"text":"${'x'.repeat(9 * 1024 ** 2)}"}`)).toBe(413);
  expect(await call('POST', '/api/drills', typed, `{"text":${'['.repeat(10_000)}`)).toBe(400);
  const driver = await open('odd');
  await expect(driver.send('POST', '/actions', { actions: [null] })).rejects.toThrow();
  await driver.title();
  await driver.quit();
  await ready(server.address, driver.attempt);
  expect((await stepsOf(driver.attempt)).map(({ data }) => data.command)).toEqual(['perform actions', 'get title']);
  expect(await faults()).toBe(0);
});
