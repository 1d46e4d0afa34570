import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import { processesMarked } from '../src/browser/sweep.mjs';
import {
  chromeArguments,
  eventually,
  json,
  markOf,
  ready,
  sleep,
  startServerProcess,
  type AttemptView,
  type ServerProcess,
} from './helpers.ts';

/** Everything that can be killed, killed in the middle of a session, several times each. */
const times = Number(process.env.ISKEL_KILLS ?? 3);

let site: FerrySite;
let data: string;
let server: ServerProcess;
/** @param idle after so many seconds a silent client is taken for gone; a slow machine is silent, too */
const start = async (idle = 20): Promise<void> => {
  server = await startServerProcess({ data, env: { ISKEL_IDLE_SECONDS: String(idle) } });
};

beforeAll(async () => {
  site = await startFerrySite();
  data = mkdtempSync(join(tmpdir(), 'iskel-killing-'));
  await start();
});
afterAll(async () => {
  await server.stop();
  await site.close();
  rmSync(data, { recursive: true, force: true });
});

/** The mark every process of a server on this folder carries. */
const mark = (): string => markOf(data);
const nameOf = (pid: number): string => readFileSync(`/proc/${pid}/cmdline`, 'utf8');
const ours = (pattern: RegExp): number[] =>
  processesMarked(mark()).filter((pid) => {
    try {
      return pattern.test(nameOf(pid));
    } catch {
      return false;
    }
  });
const browsers = (): number[] => ours(/chromium(?!driver)(?!.*--type=)(?!.*crashpad)/);
const drivers = (): number[] => ours(/^\S*chromedriver/);

async function midSession(title: string): Promise<{ driver: WebDriver; id: string }> {
  const driver = await WebDriver.open(`${server.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': { run: 'killing', test: { suite: 'killing', title } },
  });
  await driver.open(`${site.address}/sailings/l-2130`);
  await (await driver.find('#passenger')).type('Ada');
  const id = driver.attempt;
  // What counts as finished evidence is what lay there longer than the writing interval, which a busy machine stretches.
  await sleep(350);
  await eventually(
    () => commandsOf(id),
    (count) => count >= 3,
    5000,
  );
  return { driver, id };
}

async function commandsOf(id: string): Promise<number> {
  const { body } = await json<{ events: { kind: string }[] }>(
    'GET',
    `${server.address}/api/attempts/${id}/events?lane=step&limit=10000`,
  );
  return body.events.filter(({ kind }) => kind === 'command').length;
}

interface Whole extends AttemptView {
  commands: number;
}

/** The attempt as it stands after the kill: settled, whole, and every blob it names is there. */
async function whole(id: string): Promise<Whole> {
  const view = await ready(server.address, id);
  const { body } = await json<{ events: { lane: string; kind: string; data: { blob?: string } }[] }>(
    'GET',
    `${server.address}/api/attempts/${id}/events?limit=10000`,
  );
  for (const event of body.events) {
    if (event.data.blob) expect((await fetch(`${server.address}/api/blobs/${event.data.blob}`)).status).toBe(200);
  }
  expect(readdirSync(join(data, 'blobs', 'unfinished'))).toEqual([]);
  return { ...view, commands: body.events.filter((event) => event.lane === 'step' && event.kind === 'command').length };
}

const onlyTheSpare = (): Promise<unknown> =>
  eventually(
    () => ({ browsers: browsers().length, drivers: drivers().length }),
    ({ browsers: b, drivers: d }) => b === 0 && d <= 1,
    10_000,
  );

describe('killed in the middle of a session', () => {
  it('the browser', async () => {
    for (let i = 0; i < times; i++) {
      const { driver, id } = await midSession(`browser ${i}`);
      for (const pid of browsers()) process.kill(pid, 'SIGKILL');
      await expect(driver.title()).rejects.toThrow();
      const attempt = await whole(id);
      expect(attempt).toMatchObject({
        outcome: 'interrupted',
        interruptedBy: expect.stringMatching(/browser|driver/) as string,
      });
      expect(attempt.commands).toBeGreaterThanOrEqual(3);
      await onlyTheSpare();
    }
  }, 120_000);

  it('the driver', async () => {
    for (let i = 0; i < times; i++) {
      const { driver, id } = await midSession(`driver ${i}`);
      for (const pid of drivers()) process.kill(pid, 'SIGKILL');
      await expect(driver.title()).rejects.toThrow(/invalid session id/);
      const attempt = await whole(id);
      expect(attempt).toMatchObject({
        outcome: 'interrupted',
        interruptedBy: expect.stringMatching(/driver|browser/) as string,
      });
      expect(attempt.commands).toBeGreaterThanOrEqual(3);
      await onlyTheSpare();
    }
  }, 120_000);

  it('the client', async () => {
    await server.stop();
    await start(1);
    for (let i = 0; i < times; i++) {
      // The client is simply never heard of again, as after kill -9.
      const { id } = await midSession(`client ${i}`);
      const attempt = await whole(id);
      expect(attempt).toMatchObject({
        outcome: 'interrupted',
        interruptedBy: expect.stringContaining('nothing was heard of the test') as string,
      });
      expect(attempt.commands).toBe(3);
      await onlyTheSpare();
    }
  }, 120_000);

  it('the server', async () => {
    await server.stop();
    await start();
    for (let i = 0; i < times; i++) {
      const { id } = await midSession(`server ${i}`);
      const gone = new Promise((done) => server.child.once('exit', done));
      server.child.kill('SIGKILL');
      await gone;
      // Nothing of it is left running, although it could not tidy up.
      await eventually(
        () => processesMarked(mark()).length,
        (count) => count === 0,
        10_000,
      );
      const db = new Database(join(data, 'iskel.sqlite'));
      expect(db.pragma('integrity_check', { simple: true })).toBe('ok');
      db.close();
      await start();
      const attempt = await whole(id);
      expect(attempt).toMatchObject({
        outcome: 'interrupted',
        interruptedBy: 'Iskel was stopped while it recorded this',
      });
      expect(attempt.commands).toBeGreaterThanOrEqual(3);
    }
  }, 180_000);

  it('stopped in good order, the server ends everything and says so', async () => {
    const { id } = await midSession('stopped');
    await server.stop();
    expect(processesMarked(mark())).toEqual([]);
    await start();
    expect(await whole(id)).toMatchObject({
      outcome: 'interrupted',
      interruptedBy: 'Iskel was stopped while it recorded this',
    });
  }, 60_000);
});
