import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { strToU8, zipSync } from 'fflate';
import pino from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../../demo/site/site.ts';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { processesMarked } from '../../src/browser/sweep.mjs';
import { Changes } from '../../src/server/changes.ts';
import { DataLock } from '../../src/server/data-lock.ts';
import { AnalysisJobs } from '../../src/server/jobs/analysis.ts';
import { Store } from '../../src/server/store/store.ts';
import {
  chromeArguments,
  eventually,
  json,
  markOf,
  ready,
  sleep,
  startServerProcess,
  type ServerProcess,
} from '../helpers.ts';

/** What can go wrong around a recording, brought about on a running server: it costs what it must and no more. */

let site: FerrySite;
let server: ServerProcess;
beforeAll(async () => {
  site = await startFerrySite();
  server = await startServerProcess({ env: { ISKEL_IDLE_SECONDS: '60' } });
}, 60_000);
afterAll(async () => {
  await server.stop();
  await site.close();
});

const open = (title: string, at = server, more: object = {}): Promise<WebDriver> =>
  WebDriver.open(`${at.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': { run: 'trouble', test: { suite: 'standing', title }, ...more },
  });
const faults = async (at = server): Promise<number> =>
  (await json<{ faults: number }>('GET', `${at.address}/api/health`)).body.faults;
const descriptors = (): number => readdirSync(`/proc/${server.child.pid!}/fd`).length;

/** Titles read for a while. @returns how many, and the longest that one took, ms */
async function readFor(driver: WebDriver, ms: number): Promise<{ reads: number; longest: number }> {
  const end = performance.now() + ms;
  let [reads, longest] = [0, 0];
  while (performance.now() < end) {
    const from = performance.now();
    await driver.title();
    reads++;
    longest = Math.max(longest, performance.now() - from);
    await sleep(40);
  }
  return { reads, longest };
}

interface Event {
  kind: string;
  data: { command?: string; label?: string };
}
const stepsOf = async (id: string, at = server): Promise<Event[]> =>
  (
    await json<{ events: Event[] }>('GET', `${at.address}/api/attempts/${id}/events?lane=step&limit=10000`)
  ).body.events.filter(({ kind }) => kind === 'command');
const notesOf = async (id: string, at = server): Promise<string[]> =>
  (
    await json<{ events: Event[] }>('GET', `${at.address}/api/attempts/${id}/events?lane=note&limit=1000`)
  ).body.events.map(({ data }) => data.label ?? '');

describe('the database', () => {
  it('locked for six seconds by another program: nobody waits for it and nothing is lost', async () => {
    const driver = await open('locked');
    await driver.open(`${site.address}/`);
    const other = new Database(join(server.data, 'iskel.sqlite'), { timeout: 5000 });
    other.exec('BEGIN IMMEDIATE');
    const before = await readFor(driver, 1000);
    const locked = await readFor(driver, 5000);
    // A second test begins meanwhile, and others can look.
    const second = await open('begun while locked');
    expect((await json('GET', `${server.address}/api/runs`)).status).toBe(200);
    other.exec('COMMIT');
    other.close();
    await driver.outcome('passed');
    await driver.quit();
    await second.title();
    await second.quit();
    const attempt = await ready(server.address, driver.attempt);
    expect(attempt).toMatchObject({ outcome: 'passed', interruptedBy: null });
    expect(await stepsOf(driver.attempt)).toHaveLength(1 + before.reads + locked.reads);
    expect((await ready(server.address, second.attempt)).interruptedBy).toBeNull();
    expect(await stepsOf(second.attempt)).toHaveLength(1);
    expect(await faults()).toBe(0);
    console.log(`a command took at most ${locked.longest.toFixed(0)} ms while the database was locked`);
  }, 60_000);

  it('locked by another program: a verdict waits for its turn, and is then given once', async () => {
    const other = new Database(join(server.data, 'iskel.sqlite'), { timeout: 5000 });
    other.exec('BEGIN IMMEDIATE');
    const asked = json<{ id: string }>('POST', `${server.address}/api/drills`, { text: 'drill "waits"\nback\n' });
    await sleep(1500);
    other.exec('COMMIT');
    other.close();
    expect((await asked).status).toBe(201);
    const { drills } = (await json<{ drills: { title: string }[] }>('GET', `${server.address}/api/drills`)).body;
    expect(drills.filter(({ title }) => title === 'waits')).toHaveLength(1);
  });
});

const folder = mkdtempSync(join(tmpdir(), 'iskel-small-'));
const small = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', folder]).status === 0;
afterAll(() => {
  if (small) spawnSync('umount', ['-l', folder]);
  rmSync(folder, { recursive: true, force: true });
});

// A disk that can be filled takes a right that not everybody has; without it the outbox's own tests stand for this.
describe.skipIf(!small)('a full disk', () => {
  it('during a recording: what comes meanwhile is kept until there is room, and the attempt is whole', async () => {
    const here = await startServerProcess({ data: join(folder, 'data') });
    const filler = join(folder, 'filler');
    const driver = await open('disk full', here);
    await driver.open(`${site.address}/`);
    await sleep(400);
    fill(filler);
    const full = await readFor(driver, 4000);
    await driver.open(`${site.address}/sailings/l-2130`);
    expect((await json('GET', `${here.address}/api/health`)).body).toMatchObject({ ok: true, faults: 0 });
    rmSync(filler);
    const after = await readFor(driver, 1500);
    await driver.outcome('passed');
    await driver.quit();
    expect(await ready(here.address, driver.attempt)).toMatchObject({ outcome: 'passed', interruptedBy: null });
    expect(await stepsOf(driver.attempt, here)).toHaveLength(2 + full.reads + after.reads);
    expect(await faults(here)).toBe(0);
    // Pictures could not wait; how many are missing is said.
    const missing = (await notesOf(driver.attempt, here)).filter((label) => label.includes('could not be kept'));
    for (const label of missing) expect(label).toMatch(/ENOSPC/);
    await here.stop();
  }, 60_000);

  it('for good: the attempt says that it broke off and why, and the driver is closed', async () => {
    const here = await startServerProcess({ data: join(folder, 'data'), env: { ISKEL_LOG: 'fatal' } });
    const filler = join(folder, 'filler');
    const driver = await open('disk stays full', here);
    await driver.open(`${site.address}/`);
    await sleep(400);
    fill(filler);
    // Longer than evidence is kept in memory for.
    await readFor(driver, 32_000);
    await driver.quit();
    await eventually(
      () => processesMarked(markOf(here.data)).length,
      (count) => count <= 2,
      20_000,
    );
    expect(await faults(here)).toBe(0);
    rmSync(filler);
    const attempt = await ready(here.address, driver.attempt);
    expect(attempt.outcome).toBe('interrupted');
    expect(attempt.interruptedBy).toMatch(/its evidence could no longer be written: database or disk is full/);
    expect((await stepsOf(driver.attempt, here)).length).toBeGreaterThanOrEqual(1);
    await here.stop();
  }, 90_000);

  function fill(path: string): void {
    for (let size = 4 * 1024 ** 2; size >= 512; size /= 2)
      try {
        for (;;) writeFileSync(path, Buffer.alloc(size), { flag: 'a' });
      } catch {
        // Smaller pieces fill what is left.
      }
  }
});

it('a data folder that is removed costs what is in it, and is told', async () => {
  const data = mkdtempSync(join(tmpdir(), 'iskel-removed-'));
  const here = await startServerProcess({ data, env: { ISKEL_LOG: 'fatal' } });
  const driver = await open('removed', here);
  await driver.open(`${site.address}/`);
  rmSync(data, { recursive: true, force: true });
  const { reads } = await readFor(driver, 2500);
  expect(reads).toBeGreaterThan(10);
  expect((await json('GET', `${here.address}/api/health`)).body).toMatchObject({ ok: true, faults: 0 });
  await driver.quit();
  await here.stop();
  expect(processesMarked(markOf(data))).toEqual([]);
}, 60_000);

describe('a driver', () => {
  it('that is stopped costs its own session only, also when that is ended', async () => {
    const stuck = await open('stuck');
    await stuck.open(`${site.address}/`);
    const [pid] = drivers().filter((one) => isOf(one, stuck));
    const fine = await open('fine beside it');
    process.kill(pid!, 'SIGSTOP');
    const waiting = stuck.title().catch((error: Error) => error.message);
    await fine.open(`${site.address}/`);
    expect((await readFor(fine, 1500)).reads).toBeGreaterThan(8);
    const from = performance.now();
    await stuck.quit().catch(() => undefined);
    expect(performance.now() - from).toBeLessThan(25_000);
    expect(await waiting).toMatch(/no longer running|invalid session/);
    await fine.outcome('passed');
    await fine.quit();
    expect(await ready(server.address, fine.attempt)).toMatchObject({ outcome: 'passed', interruptedBy: null });
    await ready(server.address, stuck.attempt);
    await eventually(
      () => drivers().includes(pid!),
      (there) => !there,
    );
    expect(await faults()).toBe(0);
  }, 90_000);

  it('that stands ready and is stopped is given to nobody', async () => {
    await eventually(
      () => drivers().length,
      (count) => count === 1,
      20_000,
    );
    const [spare] = drivers();
    process.kill(spare!, 'SIGSTOP');
    const driver = await open('with the spare stopped');
    await driver.open(`${site.address}/`);
    await driver.quit();
    await eventually(
      () => drivers().includes(spare!),
      (there) => !there,
    );
  }, 60_000);

  const drivers = (): number[] =>
    processesMarked(markOf(server.data)).filter((pid) => /chromedriver/.test(commandOf(pid)));
  /** The driver that a browser with this session's folder belongs to: it shares its mark. */
  const isOf = (pid: number, driver: WebDriver): boolean => {
    const { debuggerAddress } = driver.capabilities['goog:chromeOptions'] as { debuggerAddress: string };
    const port = debuggerAddress.split(':')[1]!;
    const mark = environmentOf(pid);
    return processesMarked(mark).some((one) => environmentOf(one) === mark && listens(one, port));
  };
  const environmentOf = (pid: number): string =>
    /ISKEL_OWNER=([^\0]*)/.exec(readFileSync(`/proc/${pid}/environ`, 'utf8'))?.[1] ?? '';
  const commandOf = (pid: number): string => {
    try {
      return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
    } catch {
      return '';
    }
  };
  /** Whether a browser listens there: what its first process has open is among the listening sockets. */
  const listens = (pid: number, port: string): boolean => {
    const hex = Number(port).toString(16).toUpperCase().padStart(4, '0');
    const inodes = readFileSync('/proc/net/tcp', 'utf8')
      .split('\n')
      .filter((line) => line.includes(`:${hex} `) && / 0A /.test(line))
      .map((line) => line.trim().split(/\s+/)[9]);
    const handles = spawnSync('ls', ['-l', `/proc/${pid}/fd`]).stdout.toString();
    return inodes.some((inode) => inode && handles.includes(`socket:[${inode}]`));
  };
});

describe('a client that talks BiDi only', () => {
  it('is not taken for idle, and reaches nothing of this machine', async () => {
    const here = await startServerProcess({ env: { ISKEL_IDLE_SECONDS: '3' } });
    const driver = await WebDriver.open(`${here.address}/wd`, {
      browserName: 'chrome',
      webSocketUrl: true,
      'goog:chromeOptions': { args: chromeArguments },
    });
    const { WebSocket } = await import('ws');
    const socket = new WebSocket(driver.capabilities.webSocketUrl as string);
    await new Promise((done) => socket.once('open', done));
    let count = 0;
    const ask = (method: string, params: object): Promise<{ id: number; type: string; message?: string }> => {
      const id = ++count;
      const answered = new Promise<{ id: number; type: string; message?: string }>((done) => {
        const hear = (data: Buffer): void => {
          const told = JSON.parse(data.toString()) as { id: number; type: string };
          if (told.id !== id) return;
          socket.off('message', hear);
          done(told);
        };
        socket.on('message', hear);
      });
      socket.send(JSON.stringify({ id, method, params }));
      return answered;
    };
    for (let i = 0; i < 12; i++) {
      expect((await ask('browsingContext.getTree', {})).type).toBe('success');
      await sleep(350);
    }
    await driver.title();
    for (const [method, params] of [
      ['browsingContext.navigate', { context: 'x', url: 'file:///etc/passwd' }],
      ['browser.setDownloadBehavior', {}],
      ['goog:cdp.sendCommand', { method: 'Target.createTarget', params: { url: 'file:///etc/passwd' } }],
    ] as const)
      expect(await ask(method, params)).toMatchObject({
        type: 'error',
        message: expect.stringContaining('ISKEL_LAUNCH=any') as string,
      });
    socket.close();
    await driver.quit();
    await here.stop();
  }, 60_000);
});

describe('a delivery', () => {
  const zip = (cases: number): Uint8Array =>
    zipSync({
      'big.xml': strToU8(
        `<testsuite name="s">${Array.from({ length: cases }, (_, i) => `<testcase name="case ${i}" time="1"><failure message="late ${i}">at a (b.ts:${i})</failure></testcase>`).join('')}</testsuite>`,
      ),
    });
  const send = (bytes: Uint8Array, run: string): Promise<Response> => {
    const form = new FormData();
    form.append('run', run);
    form.append('files', new Blob([new Uint8Array(bytes)]), `${run}.zip`);
    return fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
  };
  const running = async (): Promise<{ id: string; doing: string }[]> =>
    (await json<{ intakes: { id: string; doing: string }[] }>('GET', `${server.address}/api/intake`)).body.intakes;

  it('stopped while another waits behind it: nothing of it is kept, the other is taken in, nothing stays open', async () => {
    expect((await send(zip(10), 'warm')).status).toBe(200);
    const before = descriptors();
    const first = send(zip(60_000), 'stopped');
    await eventually(running, (list) => list.some(({ doing }) => doing.startsWith('Reading')));
    const second = send(zip(200), 'behind');
    await eventually(running, (list) => list.length === 2);
    const { id } = (await running())[0]!;
    expect((await fetch(`${server.address}/api/intake/${id}`, { method: 'DELETE' })).status).toBe(200);
    expect((await first).status).toBe(422);
    expect(((await (await second).json()) as { attempts: number }).attempts).toBe(200);
    const { runs } = (await json<{ runs: { name: string }[] }>('GET', `${server.address}/api/runs`)).body;
    expect(runs.map(({ name }) => name)).toContain('behind');
    expect(runs.map(({ name }) => name)).not.toContain('stopped');
    await eventually(descriptors, (count) => count <= before + 6);
    expect(await faults()).toBe(0);
  }, 90_000);

  it('beside a recording never makes it wait', async () => {
    const driver = await open('beside a delivery');
    await driver.open(`${site.address}/`);
    const delivery = send(zip(6000), 'beside');
    const { reads } = await readFor(driver, 3000);
    expect((await delivery).status).toBe(200);
    await driver.outcome('passed');
    await driver.quit();
    expect(await ready(server.address, driver.attempt)).toMatchObject({ outcome: 'passed', interruptedBy: null });
    expect(await stepsOf(driver.attempt)).toHaveLength(1 + reads);
  }, 90_000);

  it.each([['in its head'], ['in a part']])('cut off %s: it is refused, and nothing stays open', async (where) => {
    const before = descriptors();
    const { hostname, port, host } = new URL(server.address);
    for (let i = 0; i < 30; i++) {
      const socket = connect(Number(port), hostname);
      socket.on('error', () => undefined);
      const head = '--b\r\ncontent-disposition: form-data; name="files"; filename="a.log"\r\n\r\n';
      const body =
        where === 'in a part' ? `${head}${'2026-11-23 10:00:00 a line\n'.repeat(200)}` : '--b\r\ncontent-disp';
      socket.write(
        `POST /api/intake HTTP/1.1\r\nhost: ${host}\r\ncontent-type: multipart/form-data; boundary=b\r\ncontent-length: 900000\r\n\r\n${body}`,
      );
      await sleep(10);
      if (i % 2) socket.resetAndDestroy();
      else socket.end();
    }
    await eventually(descriptors, (count) => count <= before + 2);
    expect(await faults()).toBe(0);
  });
});

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
