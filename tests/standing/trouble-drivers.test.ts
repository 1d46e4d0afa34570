import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { connect } from 'node:net';
import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { processesMarked } from '../../src/browser/sweep.mjs';
import { chromeArguments, eventually, json, markOf, ready, sleep, startServerProcess } from '../helpers.ts';
import { descriptors, faults, open, readFor, server, setTheScene, site, stepsOf } from './trouble-scene.ts';

/** What drivers, their clients and deliveries can do to a running server: it costs what it must and no more. */

setTheScene();

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
    let over = false;
    const taken = delivery.finally(() => (over = true));
    // Its client goes on asking for as long as that takes: silent for a minute, it would be taken for gone.
    let { reads } = await readFor(driver, 3000);
    while (!over) reads += (await readFor(driver, 500)).reads;
    expect((await taken).status).toBe(200);
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
