import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { seeded } from '../src/core/stats/seeded.ts';
import type { FamilyHistoryView, TestHistoryView, WholeHistory } from '../src/web/types.ts';
import { json, openBrowser, openScreen, startServerProcess, violationsOf, type ServerProcess } from './helpers.ts';

/** Weeks of reports: what they come to by day and commit, when a test changed, what to mend first. */
const days = 60;
const changedOn = 35;
let server: ServerProcess;
let browser: Browser;
let page: Page;
const dayMs = 86_400_000;
const startOf = (day: number): number => Math.floor(Date.now() / dayMs) * dayMs - (days - day) * dayMs + 3_600_000;
const commitOf = (day: number): string => `${Math.floor(day / 5)}c0ffee${Math.floor(day / 5)}`.padStart(12, 'a');
const random = seeded(5);

const call = async <T>(path: string): Promise<T> => (await json<T>('GET', `${server.address}/api${path}`)).body;

/** One night: six steady tests, one that begins to be flaky in the middle of it all, one that is red now and then. */
function night(day: number): string {
  const at = (i: number): string => new Date(startOf(day) + i * 10_000).toISOString();
  const one = (i: number, name: string, failure = ''): string =>
    `<testcase classname="booking" name="${name}" timestamp="${at(i)}" time="6">${failure}</testcase>`;
  const failed = (message: string): string => `<failure message="${message}"/>`;
  const flaky = day >= changedOn && random() < 0.5;
  const red = day % 10 === 3;
  return `<testsuite name="booking">${[
    ...Array.from({ length: 6 }, (_, i) => one(i, `steady ${i}`)),
    ...(flaky ? [one(6, 'holds a seat', failed('the seat was taken'))] : []),
    one(7, 'holds a seat'),
    one(8, 'pays the fare', red ? failed('the fare was not there') : ''),
  ].join('')}</testsuite>`;
}

beforeAll(async () => {
  server = await startServerProcess({ ...(process.env.HISTORY_DATA ? { data: process.env.HISTORY_DATA } : {}) });
  for (let day = 0; day < days; day++) {
    const form = new FormData();
    form.append('run', `nightly-${day}`);
    form.append(
      'labels',
      JSON.stringify({ commit: commitOf(day), branch: day % 2 ? 'main' : 'release', browser: 'chromium' }),
    );
    form.append('files', new Blob([night(day)]), 'report.xml');
    expect((await fetch(`${server.address}/api/intake`, { method: 'POST', body: form })).ok).toBe(true);
  }
  browser = await openBrowser();
  page = await openScreen(browser);
}, 180_000);
afterAll(async () => {
  await browser?.close();
  await server?.stop();
});

it('counts by day, by commit and by branch, with intervals, and gives the same as CSV', async () => {
  const whole = await call<WholeHistory>('/history?days=90');
  expect(whole.points).toHaveLength(days);
  expect(whole.points.every(({ ran }) => ran === 8)).toBe(true);
  expect(whole.points.reduce((sum, { failed }) => sum + failed, 0)).toBe(6);
  const flaky = whole.points.reduce((sum, point) => sum + point.flaky, 0);
  expect(flaky).toBeGreaterThan(5);
  expect(whole.points.reduce((sum, point) => sum + point.retryMs, 0)).toBe(flaky * 6000);
  expect((await call<WholeHistory>('/history?days=90&per=commit')).points).toHaveLength(days / 5);
  const main = await call<WholeHistory>('/history?days=90&branch=main');
  expect(main.runs).toBe(days / 2);
  expect(main.branches).toEqual(['main', 'release']);
  expect(await call<WholeHistory>('/history?days=90&suite=nowhere')).toMatchObject({
    points: [],
    mendFirst: [],
    causes: [],
    open: [],
  });
  // Of a branch all that is told is that branch's.
  const { mendFirst, open } = main;
  expect(mendFirst.find(({ title }) => title === 'holds a seat')!.ran).toBeLessThanOrEqual(16);
  expect(open).toHaveLength(2);
  expect((await call<WholeHistory>('/history?days=90&suite=booking')).open).toHaveLength(2);
  const csv = await (await fetch(`${server.address}/api/history?days=90&as=csv`)).text();
  expect(csv.trim().split('\n')).toHaveLength(days + 1);
  expect(csv).toContain('point,from,ran,failed,failed low');
  const wrong = await json<{ error: { message: string } }>('GET', `${server.address}/api/history?per=moon`);
  expect([wrong.status, wrong.body.error.message]).toEqual([400, '“per” must be one of day, commit, got “moon”']);
  expect((await json('GET', `${server.address}/api/tests/t-none/history`)).status).toBe(404);
});

it('says since which commit a test changed, what mending it would save, and whether a quarantine pays', async () => {
  const { mendFirst, open } = await call<WholeHistory>('/history?days=90');
  expect(mendFirst.map(({ title }) => title)).toEqual(['pays the fare', 'holds a seat']);
  expect(mendFirst[0]!.weeklyRed).toBeGreaterThan(0.5);
  expect(open).toHaveLength(2);
  const { test } = mendFirst[1]!;
  const told = await call<TestHistoryView>(`/tests/${test}/history?days=90`);
  expect(told.runs).toBe(days);
  expect(told.changes).toHaveLength(1);
  const [change] = told.changes;
  expect(Math.abs(change!.at - startOf(changedOn))).toBeLessThanOrEqual(3 * dayMs);
  expect(change!.words).toMatch(/^Fails more often/);
  expect(told.quarantine.advised).toBe(true);
  const steady = await call<TestHistoryView>(`/tests/${mendFirst[0]!.test}/history?days=90`);
  expect(steady.changes).toEqual([]);
});

it('tells of a failure how often it came in the runs of its tests, and since when', async () => {
  const { open } = await call<WholeHistory>('/history?days=90');
  const taken = open.find(({ sentence }) => sentence.includes('taken'))!;
  const told = await call<FamilyHistoryView>(`/families/${taken.id}/history?days=90`);
  expect(told.tests.map(({ title }) => title)).toEqual(['holds a seat']);
  expect([told.runs, told.failed]).toEqual([days, 0]);
  expect(told.changes).toHaveLength(1);
  expect(told.changes[0]!.words).toMatch(
    /^Comes more often (?:between commits|from nightly-3).*: it came in 0 of 3\d before, in \d+ of 2\d since$/,
  );
  const csv = await (await fetch(`${server.address}/api/families/${taken.id}/history?as=csv&days=90`)).text();
  expect(csv.trim().split('\n')).toHaveLength(days + 1);
  expect((await json('GET', `${server.address}/api/families/f-none/history`)).status).toBe(404);
  await page.goto(`${server.address}/dossiers/${taken.id}`);
  await page.getByRole('link', { name: 'its history' }).click();
  await page
    .getByRole('heading', { name: /^It came in \d+ of 60 runs of its tests, \d+ of them passed on retry/ })
    .waitFor();
  expect(await page.getByRole('region', { name: 'Every run' }).getByRole('link').count()).toBe(days);
  expect(await violationsOf(page)).toEqual([]);
  await page.getByRole('region', { name: 'Its tests' }).getByRole('link', { name: 'holds a seat' }).click();
  await page.getByRole('link', { name: 'booking', exact: true }).click();
  await page.waitForURL(/\/trends\?suite=booking/);
});

it('is looked at: trends and a test, as charts and tables, by keys', async () => {
  const troubles: string[] = [];
  page.on('pageerror', (error) => troubles.push(error.message));
  page.on('console', (line) => line.type() === 'error' && troubles.push(line.text()));
  await page.goto(`${server.address}/trends`);
  await page.getByRole('img', { name: /^Tests that failed.*60 points, 6 failed/ }).waitFor();
  expect(await violationsOf(page)).toEqual([]);
  await page.getByRole('button', { name: 'as table' }).click();
  expect(await page.getByRole('region', { name: 'Tests that failed' }).getByRole('row').count()).toBe(days + 1);
  await page.keyboard.press('b');
  await page.waitForURL(/per=commit/);
  await page.getByRole('region', { name: 'Mend these first' }).getByRole('link', { name: 'pays the fare' }).waitFor();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/tests\/t-/);
  await page.getByRole('heading', { name: /^Failed in 0 of 60 runs, passed only on retry in \d+/ }).waitFor();
  await page.getByText(/^Quarantine pays/).waitFor();
  expect(await violationsOf(page)).toEqual([]);
  const runs = page.getByRole('region', { name: 'Every run' }).getByRole('link');
  expect(await runs.count()).toBe(days);
  await page.keyboard.press('f');
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/attempts\//);
  await page.getByText('the seat was taken').first().waitFor();
  expect(troubles).toEqual([]);
});
