import { spawn } from 'node:child_process';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite } from '../demo/site/site.ts';
import type { Board } from '../demo/site/visits.ts';
import { runAttempt } from '../demo/suite/run.ts';
import { ferryTests } from '../demo/suite/tests.ts';
import { eventsOf, type EvidenceEvent } from '../src/core/evidence/event.ts';
import type { Attempt, Run } from '../src/core/records.ts';
import { noRules, type StandingRules } from '../src/core/rules/standing-rules.ts';
import type { RulesPreview } from '../src/web/types.ts';
import {
  eventually,
  json,
  openBrowser,
  openScreen,
  program,
  startServerProcess,
  violationsOf,
  type ServerProcess,
} from './helpers.ts';

/** Policies on recorded attempts: what they say beforehand is what they do. ATTEMPTS=200 for as many. */
const many = Number(process.env.ATTEMPTS ?? 9);
let server: ServerProcess;
let site: Awaited<ReturnType<typeof startFerrySite>>;
let browser: Browser;
let page: Page;
let run = '';

/** One in three has a board whose service fails, one in seven a board that throws and is suppressed; the others are quiet. */
const boardOf = (number: number): Board => (number % 3 === 0 ? 'fails' : number % 7 === 1 ? 'throws' : 'works');
const numbers = Array.from({ length: many }, (_, i) => i + 1);
const having = (...boards: Board[]): number[] => numbers.filter((number) => boards.includes(boardOf(number)));

const call = async <T>(method: string, path: string, body?: unknown): Promise<T> =>
  (await json<T>(method, `${server.address}/api${path}`, body)).body;
const attempts = async (): Promise<Attempt[]> =>
  (await call<{ attempts: Attempt[] }>('GET', `/runs/${run}/attempts`)).attempts;
const against = async (): Promise<number[]> =>
  (await attempts()).filter((one) => one.against).map(({ number }) => number);
const rules = (more: { console?: object; requests?: object }): StandingRules => ({
  ...noRules,
  console: { ...noRules.console, ...more.console },
  requests: { ...noRules.requests, ...more.requests },
});
const set = async (some: StandingRules): Promise<void> => {
  const { status, body } = await json('PUT', `${server.address}/api/rules`, { ...some, by: 'Ada' });
  expect(status, JSON.stringify(body)).toBe(200);
};
const exempt = (until: number | null): object => ({
  pattern: 'the harbour answered \\d+',
  reason: 'the harbour is being rebuilt',
  owner: 'timetable',
  until,
});

/** The command line, with how it ended. */
async function iskel(...args: string[]): Promise<{ code: number | null; out: string }> {
  const child = spawn(process.execPath, [...program('src/cli/main.ts'), '--server', server.address, ...args]);
  let out = '';
  child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
  child.stderr.on('data', (chunk: Buffer) => (out += chunk.toString()));
  return { code: await new Promise<number | null>((done) => child.once('exit', done)), out };
}

beforeAll(
  async () => {
    server = await startServerProcess();
    site = await startFerrySite();
    const lists = ferryTests.find(({ title }) => title === 'lists the sailings of a day')!;
    for (const number of numbers) {
      // A test of its own each, so that each has its own cell on the sheet.
      const test = { ...lists, title: `lists the sailings of day ${number}` };
      const boards = { [test.title]: boardOf(number) };
      const done = await runAttempt({ remote: `${server.address}/wd`, site, run: 'nightly-1', boards }, test, number);
      expect(done.message).toBe('');
    }
    run = (await call<{ runs: Run[] }>('GET', '/runs')).runs[0]!.id;
    await eventually(attempts, (list) => list.length === many && list.every(({ state }) => state === 'ready'));
    browser = await openBrowser();
    page = await openScreen(browser);
  },
  60_000 + many * 10_000,
);
afterAll(async () => {
  await browser?.close();
  await site?.close();
  await server?.stop();
});

it('says beforehand what it does, and does that', async () => {
  const wanted = rules({ console: { effect: 'fails' }, requests: { effect: 'fails' } });
  const preview = await call<RulesPreview>('POST', '/rules/preview', wanted);
  expect(preview).toMatchObject({ attempts: many, passed: many, now: { console: 0, requests: 0 } });
  expect(preview.console.wouldFail).toBe(having('fails', 'throws').length);
  expect(preview.requests.wouldFail).toBe(having('fails').length);
  expect(preview.console.voices.map(({ words, passed }) => [words, passed])).toEqual([
    ['The console says “notice board: the harbour answered 503, nothing is shown” (error)', having('fails').length],
    [
      "An exception was suppressed by a handler on the page: “TypeError: Cannot set properties of null (setting 'textContent')”",
      having('throws').length,
    ],
  ]);
  expect(await against()).toEqual([]);

  await set(wanted);
  await eventually(against, (list) => list.length === having('fails', 'throws').length);
  expect((await against()).sort((a, b) => a - b)).toEqual(having('fails', 'throws'));
  expect((await call<Run>('GET', `/runs/${run}`)).totals).toMatchObject({
    passed: many,
    failed: 0,
    against: having('fails', 'throws').length,
  });
});

it('is told apart from the test’s own failures in JUnit XML and by the exit code', async () => {
  const xml = await (await fetch(`${server.address}/api/runs/${run}/junit`)).text();
  const count = having('fails', 'throws').length;
  expect(xml).toContain(`<testsuites name="nightly-1" tests="${many}" failures="${count}" errors="0"`);
  expect(xml.match(/<failure message="Passed, against the rules: [^"]+" type="against-the-rules">/g)).toHaveLength(
    count,
  );
  const judged = await iskel('judge', 'nightly-1');
  expect(judged.code).toBe(4);
  expect(judged.out).toContain(`${count} of ${many} tests of “nightly-1” passed against the rules`);
  expect((await iskel('judge', 'nightly-9')).code).toBe(2);

  // By a policy that only tells, nothing fails.
  await set(rules({ console: { effect: 'tells' } }));
  await eventually(attempts, (list) => list.every((one) => !one.against?.fails));
  const quiet = await (await fetch(`${server.address}/api/runs/${run}/junit`)).text();
  expect(quiet).toContain(`tests="${many}" failures="0"`);
  expect(quiet.match(/<system-out>Against a rule that only tells/g)).toHaveLength(count);
  expect((await iskel('judge', 'latest')).code).toBe(0);
});

it('an exemption lets pass until its end, and what follows is against the rules again', async () => {
  const last = (await attempts()).reduce((most, { startedAt }) => Math.max(most, Math.ceil(startedAt)), 0);
  const only = (until: number | null): StandingRules =>
    rules({ console: { effect: 'fails', exempt: [exempt(until)] } });
  await set(only(last + 1000));
  await eventually(against, (list) => list.length === having('throws').length);
  const preview = await call<RulesPreview>('POST', '/rules/preview', only(0));
  expect(preview.console.exempted).toEqual([{ attempts: 0, ended: having('fails').length }]);
  await set(only(0));
  await eventually(against, (list) => list.length === having('fails', 'throws').length);
});

it('keeps every form of the rules with who set it, and goes back to any', async () => {
  const { versions } = await call<{ versions: { number: number; by: string; changed: string[] }[] }>(
    'GET',
    '/rules/versions',
  );
  expect(versions.map(({ number }) => number)).toEqual([4, 3, 2, 1]);
  expect(versions.every(({ by }) => by === 'Ada')).toBe(true);
  expect(versions.at(-1)!.changed).toEqual(['console: off → fails attempts', 'requests: off → fails attempts']);
  await call('POST', '/rules/undo', { by: 'Deniz', to: 0 });
  const back = await call<StandingRules & { version: unknown }>('GET', '/rules');
  expect(back).toEqual({
    ...noRules,
    version: expect.objectContaining({
      number: 5,
      by: 'Deniz',
      changed: expect.arrayContaining(['back to no rules at all']),
    }) as unknown,
  });
  await eventually(against, (list) => list.length === 0);
  // What cannot be is refused in words, and changes nothing.
  const wrong = await json<{ error: { message: string } }>('PUT', `${server.address}/api/rules`, {
    console: { exempt: [{ pattern: '(', reason: 'x' }, { pattern: 'a' }] },
  });
  expect(wrong.status).toBe(400);
  expect(wrong.body.error.message).toMatch(/no regular expression.*reason/s);
  expect((await json('POST', `${server.address}/api/rules/undo`, { to: 99 })).status).toBe(404);
});

it('is written, tried, set and taken back on its screen; bench and sheet show what is against it', async () => {
  const troubles: string[] = [];
  page.on('pageerror', (error) => troubles.push(error.message));
  await page.goto(`${server.address}/rules`);
  const console = page.getByRole('region', { name: 'Console' });
  await console
    .getByText(`${having('fails', 'throws').length} of ${many} attempts that passed would have failed`)
    .waitFor();
  expect(await violationsOf(page)).toEqual([]);
  await console.getByRole('radio', { name: 'fail the attempt' }).check();
  await page.getByText('Not set yet: console: off → fails attempts').waitFor();
  // One message is let pass, which asks why.
  await console.getByRole('button', { name: /^Let pass: The console says “notice board/ }).click();
  await page.getByText('Say why each exemption is let pass.').waitFor();
  await console.getByLabel('Reason 1').fill('the harbour is being rebuilt');
  await console.getByText(`${having('throws').length} of ${many} attempts that passed would have failed`).waitFor();
  await console.getByText(`lets ${having('fails').length} attempts pass`).waitFor();
  // What is not set yet is still there after a look elsewhere.
  await page.getByRole('link', { name: 'Dossiers' }).click();
  await page.getByRole('heading', { name: 'Dossiers' }).waitFor();
  await page.getByRole('link', { name: 'Rules' }).click();
  await page.getByLabel('set by').fill('Ada');
  await page.getByRole('heading', { name: 'Standing rules' }).click();
  await page.getByRole('button', { name: 'Set these rules' }).click();
  await page.getByText('These rules hold.').waitFor();
  expect(await violationsOf(page)).toEqual([]);

  await eventually(against, (list) => list.length === having('throws').length);
  await page.goto(`${server.address}/runs/${run}`);
  await page.getByRole('heading', { name: `${having('throws').length} tests passed against the rules` }).waitFor();
  await page.getByRole('button', { name: 'against the rules' }).click();
  const cells = page.getByRole('link', { name: /passed, against the rules/ });
  await cells.first().waitFor();
  expect(await cells.count()).toBe(having('throws').length);
  await cells.first().click();
  await page.getByRole('heading', { name: /^Passed, against the rules: An exception was suppressed/ }).waitFor();
  await page.keyboard.press('r');
  await page.waitForURL(/show=/);

  await page.goto(`${server.address}/rules`);
  await page.getByText('These rules hold.').waitFor();
  const keeping = page.getByRole('region', { name: 'Keeping' });
  await keeping.getByText(/^Nothing would be let go of/).waitFor();
  await keeping.getByRole('button', { name: 'Add a term' }).click();
  await keeping.getByLabel('Days for rest of passing attempts, term 1').fill('0');
  await page.getByRole('heading', { name: 'Standing rules' }).click();
  await keeping.getByText(`and the rest of ${many} attempts would be let go of`).waitFor();
  expect(await violationsOf(page)).toEqual([]);
  await page.keyboard.press('x');
  await keeping.getByText(/^Nothing would be let go of/).waitFor();
  await page.keyboard.press('u');
  await eventually(against, (list) => list.length === 0);
  expect(troubles).toEqual([]);
});

it('reads what comes by its hosts, thresholds and limits, tried beforehand', async () => {
  const { host } = new URL(site.address);
  const wanted: StandingRules = {
    ...noRules,
    hosts: { own: [], outside: [host] },
    thresholds: { ...noRules.thresholds, slowCommandMs: 5, movedPx: 1 },
    limits: { events: 1000, picturesMb: 1 },
  };
  const { hosts, thresholds, limits } = await call<RulesPreview>('POST', '/rules/preview', wanted);
  expect(hosts.changed).toMatchObject([{ host, attempts: hosts.of, own: false }]);
  expect(thresholds.of).toBe(Math.min(many, 40));
  expect([limits.of, limits.cut]).toEqual([hosts.of, 0]);
  await set(wanted);
  const lists = ferryTests.find(({ title }) => title === 'lists the sailings of a day')!;
  const asked = async (of: string): Promise<boolean[]> => {
    await runAttempt({ remote: `${server.address}/wd`, site, run: of }, lists, 1);
    const all = (await call<{ runs: Run[] }>('GET', '/runs')).runs;
    const path = `/runs/${all.find(({ name }) => name === of)!.id}/attempts`;
    const [one] = await eventually(
      async () => (await call<{ attempts: Attempt[] }>('GET', path)).attempts,
      ([first]) => first?.state === 'ready',
    );
    const { events } = await call<{ events: EvidenceEvent[] }>('GET', `/attempts/${one!.id}/events?limit=10000`);
    return eventsOf(events, 'network').flatMap(({ data }) => (data.host === host ? [data.own] : []));
  };
  const then = await asked('nightly-hosts');
  expect(then.length).toBeGreaterThan(0);
  expect(then).not.toContain(true);
  await set(noRules);
  expect(await asked('nightly-after')).not.toContain(false);
  const wrong = await json<{ error: { message: string } }>('PUT', `${server.address}/api/rules`, {
    hosts: { own: ['http://pay.example'] },
    thresholds: { nearLimit: 7 },
  });
  expect([wrong.status, wrong.body.error.message]).toEqual([400, expect.stringMatching(/a host such as.*nearLimit/s)]);
});
