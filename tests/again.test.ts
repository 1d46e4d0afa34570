import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import type { Again } from '../src/core/records.ts';
import { processesMarked } from '../src/browser/sweep.mjs';
import {
  chromeArguments,
  eventually,
  json,
  markOf,
  openBrowser,
  openScreen,
  ready,
  startServerProcess,
  type ServerProcess,
  violationsOf,
} from './helpers.ts';

/** Only these again: by drills, and by a test command of the team's own, which this plays with scripts of ours. */
let site: FerrySite;
let server: ServerProcess;
let browser: Browser;
/** Of two tests that were recorded: one fails, one passes. */
let tests: string[];
let run: string;
const folder = mkdtempSync(join(tmpdir(), 'iskel-team-'));

const runner = `
const { writeFileSync, mkdirSync } = require('node:fs');
const { ISKEL_REPETITION: time, ISKEL_TESTS, ISKEL_RUN } = process.env;
console.log('time ' + time + ' of ' + JSON.parse(ISKEL_TESTS).length + ' tests, password=lantern-77-harbour');
console.error('filter ' + process.argv[2]);
mkdirSync('results', { recursive: true });
const failed = time === '3';
writeFileSync('results/report.xml', '<testsuite name="booking"><testcase name="holds a seat" time="1">'
  + (failed ? '<failure message="the seat was gone"/>' : '') + '</testcase></testsuite>');
process.exit(failed ? 1 : 0);
`;
const recorded = `
const call = async (method, path, body) => (await (await fetch(process.env.ISKEL_REMOTE + path, {
  method, body: body && JSON.stringify(body), headers: { 'content-type': 'application/json' } })).json()).value;
(async () => {
  const { sessionId } = await call('POST', '/session', { capabilities: { alwaysMatch: {
    browserName: 'chrome', 'goog:chromeOptions': { args: ${JSON.stringify(chromeArguments)} } } } });
  await call('POST', '/session/' + sessionId + '/url', { url: process.env.FERRY });
  await call('DELETE', '/session/' + sessionId);
  console.log('recorded');
})();
`;
const stubborn = `
const { spawn } = require('node:child_process');
process.on('SIGTERM', () => {});
spawn(process.execPath, ['-e', 'setInterval(() => {}, 1000)'], { detached: true, stdio: 'ignore' }).unref();
console.log('begun');
setInterval(() => {}, 1000);
`;

const again = async (body: object): Promise<string> => {
  const { status, body: told } = await json<{ id: string }>('POST', `${server.address}/api/again`, body);
  expect(status).toBe(202);
  return told.id;
};
const read = async (id: string): Promise<Again> => (await json<Again>('GET', `${server.address}/api/again/${id}`)).body;
const ended = (id: string): Promise<Again> =>
  eventually(
    () => read(id),
    ({ state }) => state !== 'waiting' && state !== 'running',
    60_000,
  );
const output = async (id: string, after = 0): Promise<{ text: string; from: number }> =>
  (await json<{ text: string; from: number }>('GET', `${server.address}/api/again/${id}/output?after=${after}`)).body;

beforeAll(async () => {
  site = await startFerrySite();
  for (const [name, text] of Object.entries({ runner, recorded, stubborn }))
    writeFileSync(join(folder, `${name}.cjs`), text);
  const data = mkdtempSync(join(tmpdir(), 'iskel-again-'));
  const node = { program: process.execPath, folder };
  writeFileSync(
    join(data, 'iskel.settings.json'),
    JSON.stringify({
      commands: [
        { ...node, name: 'ferry tests', args: ['runner.cjs', '--grep={filter}'], reports: ['results'] },
        { ...node, name: 'recorded', args: ['recorded.cjs'], environment: { FERRY: site.address } },
        { ...node, name: 'stubborn', args: ['stubborn.cjs'] },
        { ...node, name: 'gone', program: '/nowhere/to/be/found' },
      ],
    }),
  );
  server = await startServerProcess({ data });
  for (const [title, missing] of [
    ['holds a seat', true],
    ['reads the heading', false],
  ] as const) {
    const driver = await WebDriver.open(`${server.address}/wd`, {
      browserName: 'chrome',
      'goog:chromeOptions': { args: chromeArguments },
      'iskel:attempt': { run: 'nightly-9', test: { suite: 'booking', title } },
    });
    await driver.open(`${site.address}/`);
    const found = await driver.find(missing ? '#no-such-seat' : 'h1').catch((error: Error) => error);
    await driver.outcome(found instanceof Error ? 'failed' : 'passed', found instanceof Error ? found.message : '');
    await driver.quit();
    await ready(server.address, driver.attempt);
  }
  const { runs } = (await json<{ runs: { id: string; name: string }[] }>('GET', `${server.address}/api/runs`)).body;
  run = runs.find(({ name }) => name === 'nightly-9')!.id;
  const { attempts } = (
    await json<{ attempts: { test: { id: string; title: string } }[] }>(
      'GET',
      `${server.address}/api/runs/${run}/attempts`,
    )
  ).body;
  tests = attempts.sort((a, b) => a.test.title.localeCompare(b.test.title)).map(({ test }) => test.id);
  browser = await openBrowser();
}, 90_000);
afterAll(async () => {
  await browser?.close();
  await server.stop();
  expect(processesMarked(markOf(server.data))).toEqual([]);
  await site.close();
  for (const left of [folder, server.data]) rmSync(left, { recursive: true, force: true });
});

it('by a command, until it fails: its reports are runs, its output is kept without secrets', async () => {
  const id = await again({ tests, by: 'ferry tests', times: 5, untilFails: true, run });
  const done = await ended(id);
  expect(done).toMatchObject({ state: 'done', problem: null, command: 'ferry tests' });
  expect(done.ended.map(({ code, failed, attempts }) => [code, failed, attempts])).toEqual([
    [0, 0, 1],
    [0, 0, 1],
    [1, 1, 1],
  ]);
  // The times are told apart, and each belongs to a run named after the one they came from.
  expect(new Set(done.ended.map(({ runId }) => runId)).size).toBe(3);
  const first = await json<{ name: string; totals: { tests: number; passed: number } }>(
    'GET',
    `${server.address}/api/runs/${done.ended[0]!.runId}`,
  );
  expect(first.body.name).toMatch(/^nightly-9 again, /);
  expect(first.body.totals).toMatchObject({ tests: 1, passed: 1 });
  const { text } = await output(id);
  expect(text).toContain('time 3 of 2 tests');
  expect(text).toContain('filter --grep=holds a seat|reads the heading');
  expect(text).not.toContain('lantern-77');
  const later = await output(id, text.length - 4);
  expect(later).toEqual({ text: text.slice(-4), from: text.length - 4 });
});

it('by a command whose tests name no run: what they record is of its run', async () => {
  const done = await ended(await again({ tests: tests.slice(0, 1), by: 'recorded', run }));
  expect(done.ended).toMatchObject([{ code: 0, attempts: 1, failed: 0 }]);
  const { attempts } = (
    await json<{ attempts: { environment: { browser: string } }[] }>(
      'GET',
      `${server.address}/api/runs/${done.runId}/attempts`,
    )
  ).body;
  expect(attempts).toMatchObject([{ environment: { browser: 'chromium' } }]);
});

it('a command that does not end is stopped with all that it started; the next has its turn', async () => {
  const id = await again({ tests, by: 'stubborn', times: 3, run });
  const next = await again({ tests, by: 'gone', run });
  await eventually(
    () => output(id),
    ({ text }) => text.includes('begun'),
  );
  expect(processesMarked(markOf(server.data)).length).toBeGreaterThan(2);
  const before = processesMarked(markOf(server.data)).length;
  expect((await json('DELETE', `${server.address}/api/again/${id}`)).status).toBe(200);
  expect(await ended(id)).toMatchObject({ state: 'stopped', ended: [{ code: null, signal: 'SIGKILL' }] });
  expect(processesMarked(markOf(server.data)).length).toBeLessThanOrEqual(before - 2);
  const gone = await ended(next);
  expect(gone).toMatchObject({ state: 'done', ended: [{ code: null }] });
  expect(gone.ended[0]!.problem).toMatch(/“\/nowhere\/to\/be\/found” could not be started in .* settings file/);
});

it('what cannot be run is refused in words', async () => {
  const ask = async (body: object): Promise<[number, string]> => {
    const { status, body: told } = await json<{ error: { message: string } }>(
      'POST',
      `${server.address}/api/again`,
      body,
    );
    return [status, told.error.message];
  };
  expect(await ask({ tests, by: 'rm -rf' })).toEqual([409, expect.stringContaining('it has “ferry tests”')]);
  expect(await ask({ tests: ['t-none'] })).toEqual([404, expect.stringContaining('t-none')]);
  expect(await ask({ tests, times: 0 })).toEqual([400, expect.stringContaining('times')]);
  const { commands } = (await json<{ commands: { name: string }[] }>('GET', `${server.address}/api/commands`)).body;
  expect(commands.map(({ name }) => name)).toEqual(['ferry tests', 'recorded', 'stubborn', 'gone']);
  // A page learns what it may start, and nothing of the environment it is started in.
  expect(JSON.stringify(commands)).not.toContain(site.address);
});

it('from the run sheet by keys: by drills until they fail, seen as it goes', async () => {
  const page = await openScreen(browser);
  const troubles: string[] = [];
  page.on('pageerror', (error) => troubles.push(error.message));
  await page.goto(`${server.address}/runs/${run}`);
  await page.getByRole('grid').or(page.locator('table')).first().waitFor();
  await page.keyboard.press('a');
  const dialog = page.getByRole('dialog', { name: 'Only these again' });
  await dialog.getByLabel('all that the filter shows: 2 tests').check();
  await dialog.getByLabel('times').fill('2');
  await dialog.getByLabel('or until it fails').check();
  await dialog.getByLabel('ferry tests').waitFor();
  await dialog.getByRole('button', { name: 'Run 2 tests again' }).click();
  await page.waitForURL(/\/again\/g-/);
  const done = await ended(page.url().split('/').at(-1)!);
  expect(done.state).toBe('done');
  const articles = page.locator('article');
  await articles.getByText('1 of 1 trials fail the same way').waitFor();
  await articles.getByText('0 of 2 trials fail').waitFor();
  expect(await violationsOf(page)).toEqual([]);
  expect(troubles).toEqual([]);
}, 120_000);

it('a command’s times and output are seen, and it goes once more by a key', async () => {
  const page = await openScreen(browser);
  const id = await again({ tests, by: 'ferry tests', times: 3, run });
  await page.goto(`${server.address}/again/${id}`);
  await page.getByText('exit code 1, 1 of 1 attempt failed').waitFor();
  await page.getByText(/time 3 of 2 tests/).waitFor();
  await page.getByRole('heading', { name: /1 of 3 times failed: 2 tests/ }).waitFor();
  await page.keyboard.press('a');
  await page.waitForURL((url) => !url.pathname.endsWith(id));
  await page.getByText(/time 1 of 2 tests/).waitFor();
}, 60_000);
