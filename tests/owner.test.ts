import { spawn } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DriverPool } from '../src/browser/driver-pool.ts';
import { startDriver, type DriverProcess } from '../src/browser/driver-process.ts';
import { chromiumBy, findEngines } from '../src/browser/engines.ts';
import { Owner } from '../src/browser/owner.ts';
import { processesMarked } from '../src/browser/sweep.mjs';
import { forwarded, eventually } from './helpers.ts';

let home: string;
let owner: Owner;
beforeEach(async () => {
  home = mkdtempSync(join(tmpdir(), 'iskel-owner-'));
  owner = await Owner.start(home);
});
afterEach(async () => {
  await owner.close();
  rmSync(home, { recursive: true, force: true });
});

const sleeper = (): { pid: number; mark: string; folder: string } => {
  const { mark, folder, env } = owner.next();
  const child = spawn('sleep', ['60'], { env, detached: true, stdio: 'ignore' });
  child.unref();
  return { pid: child.pid!, mark, folder };
};

describe('the owner of child processes', () => {
  it('ends one family of processes and leaves the others', async () => {
    const [one, other] = [sleeper(), sleeper()];
    await eventually(
      () => owner.running().length,
      (count) => count === 2,
    );
    await owner.end(one.mark, one.folder);
    expect(owner.running()).toEqual([other.pid]);
    expect(existsSync(one.folder)).toBe(false);
  });

  it('ends what an earlier server on the same folder left running', async () => {
    const left = sleeper();
    await eventually(
      () => owner.running().length,
      (count) => count === 1,
    );
    const next = await Owner.start(home);
    expect(processesMarked(left.mark)).toEqual([]);
    await next.close();
  });

  it('ends its processes with itself, and only its own', async () => {
    const stranger = spawn('sleep', ['60'], { stdio: 'ignore' });
    const mine = sleeper();
    await eventually(
      () => owner.running().length,
      (count) => count === 1,
    );
    await owner.close();
    expect(processesMarked(mine.mark)).toEqual([]);
    expect(stranger.exitCode).toBeNull();
    stranger.kill();
  });
});

const chromium = chromiumBy('chromedriver', '');

describe('drivers', () => {
  it('start at an address of their own and end with everything they started', async () => {
    const driver = await startDriver(chromium, owner);
    const status = (await (await fetch(`${await forwarded((driver as DriverProcess).base)}/status`)).json()) as {
      value: { ready: boolean };
    };
    expect(status.value.ready).toBe(true);
    await driver.close();
    expect(owner.running()).toEqual([]);
  });

  it('that are not there are said to be missing', async () => {
    await expect(startDriver({ ...chromium, driver: 'no-such-driver' }, owner)).rejects.toThrow(
      /no-such-driver did not start/,
    );
  });

  it('taken at once are all different, also when one is kept ready', async () => {
    const pool = new DriverPool(chromium, owner);
    await pool.ready();
    const taken = await Promise.all(Array.from({ length: 5 }, () => pool.take()));
    expect(new Set(taken.map((driver) => (driver as DriverProcess).base)).size).toBe(5);
    await Promise.all(taken.map((driver) => driver.close()));
    await pool.close();
    await eventually(
      () => owner.running().length,
      (count) => count === 0,
    );
  });

  it('kept ready and killed are replaced', async () => {
    const pool = new DriverPool(chromium, owner);
    const first = (await pool.ready()) as DriverProcess;
    first.process.kill('SIGKILL');
    await eventually(
      () => first.alive,
      (alive) => !alive,
    );
    const next = (await pool.take()) as DriverProcess;
    expect(next.base).not.toBe(first.base);
    await next.close();
    await pool.close();
  });
});

it('finds the engines of this machine with their versions, and leaves nothing running', async () => {
  const version = expect.stringMatching(/^\d+\.\d+/) as string;
  expect(await findEngines(owner)).toMatchObject([
    { name: 'chromium', version, driver: 'chromedriver', abilities: { socket: true, debugging: true } },
    { name: 'firefox', version, driver: 'firefox-esr', abilities: { socket: true, debugging: false } },
    {
      name: 'webkit',
      abilities: { socket: false },
      version,
      driver: 'WebKitWebDriver',
      browser: expect.stringMatching(/MiniBrowser$/) as string,
      screen: 'Xvfb',
    },
  ]);
  expect(owner.running()).toEqual([]);
});
