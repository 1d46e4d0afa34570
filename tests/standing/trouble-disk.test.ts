import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { processesMarked } from '../../src/browser/sweep.mjs';
import { eventually, json, markOf, ready, sleep, startServerProcess } from '../helpers.ts';
import { faults, notesOf, open, readFor, server, setTheScene, site, stepsOf } from './trouble-scene.ts';

/** What can go wrong with the database and its disk during a recording: it costs what it must and no more. */

setTheScene();

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
    // What came before the disk was full must be on it: a slow machine writes later.
    await eventually(
      () => stepsOf(driver.attempt, here),
      (steps) => steps.length > 0,
    );
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
