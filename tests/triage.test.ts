import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { awaitsVerdict } from '../src/core/families/verdict.ts';
import type { Family } from '../src/core/records.ts';
import {
  eventually,
  json,
  openBrowser,
  openScreen,
  startServerProcess,
  violationsOf,
  type ServerProcess,
} from './helpers.ts';

/** Families get their verdicts by keys alone; all of it taken back, nothing is left of it. FAMILIES=50 for as many. */
const many = Number(process.env.FAMILIES ?? 20);
let server: ServerProcess;
let browser: Browser;
let page: Page;
const troubles: string[] = [];

/** What no two of them say alike, so that no two are one family. */
const words = (i: number): string =>
  [i, i + 50, i + 100]
    .map((n) =>
      [n % 10, Math.floor(n / 10) % 10, Math.floor(n / 7) % 10]
        .map((digit) => `${'klmnprstvz'[digit]}${'aeioua'[digit % 5]}`)
        .join(''),
    )
    .join(' ');
const failure = (i: number): string => `<failure message="${words(i)} was not there"/>`;

async function report(run: string, day: number, which: readonly number[]): Promise<void> {
  const cases = which.map(
    (i) =>
      `<testcase classname="desk ${i}" name="case ${i}" timestamp="2026-11-${day}T10:00:00Z" time="1">${failure(i)}</testcase>`,
  );
  const form = new FormData();
  form.append('run', run);
  form.append('files', new Blob([`<testsuite name="desk">${cases.join('')}</testsuite>`]), `${run}.xml`);
  expect((await fetch(`${server.address}/api/intake`, { method: 'POST', body: form })).ok).toBe(true);
}
const families = async (): Promise<Family[]> =>
  (await json<{ families: Family[] }>('GET', `${server.address}/api/families`)).body.families;
const awaiting = async (): Promise<number> =>
  (await families()).filter(({ verdict }) => awaitsVerdict(verdict, Date.now())).length;
const decide = async (id: string, body: object): Promise<{ status: number; body: { error?: { message: string } } }> =>
  json('POST', `${server.address}/api/families/${id}/decisions`, body);

beforeAll(async () => {
  server = await startServerProcess();
  await report(
    'nightly-1',
    20,
    Array.from({ length: many }, (_, i) => i),
  );
  await eventually(families, (list) => list.length === many);
  browser = await openBrowser();
  page = await openScreen(browser);
  page.on('pageerror', (error) => troubles.push(error.message));
});
afterAll(async () => {
  await browser?.close();
  await server.stop();
});

/** The screen of another dossier than the one before. */
const moved = (from: string): Promise<void> => page.waitForURL((url) => !url.href.endsWith(from));

it('all are judged by keys alone, and taken back one by one', async () => {
  const before = await families();
  await page.goto(`${server.address}/dossiers`);
  await page.getByText(`${many} families await a verdict`).waitFor();
  expect(await violationsOf(page)).toEqual([]);
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.waitForURL(/\/dossiers\/f-/);
  const order: string[] = [];
  for (let i = 0; i < many; i++) {
    const at = new URL(page.url()).pathname;
    order.push(at);
    await page.getByText('No cause is confirmed yet.').waitFor();
    if (i === 0) expect(await violationsOf(page)).toEqual([]);
    await page.keyboard.press('w');
    await page.keyboard.type(`cable ${i}`);
    await page.keyboard.press('Enter');
    await page.getByText(`The cause is cable ${i}.`).waitFor();
    await page.keyboard.press('Escape');
    await page.keyboard.press(']');
    await moved(at);
  }
  // After the last of them the queue is shown, and it is empty.
  await page.getByText('Every family has its verdict.').waitFor();
  expect(await awaiting()).toBe(0);
  expect(new Set(order).size).toBe(many);
  // The last five by keys, the others as the same key does it.
  await page.keyboard.press('a');
  for (let i = 0; i < 5; i++) {
    await page.goto(`${server.address}${order[i]}`);
    await page.getByText(`The cause is cable ${i}.`).waitFor();
    await page.keyboard.press('u');
    await page.getByText('No cause is confirmed yet.').waitFor();
  }
  for (const at of order.slice(5)) await json('POST', `${server.address}/api/families/${at.split('/').at(-1)}/undo`);
  expect(await families()).toEqual(before);
  expect(troubles).toEqual([]);
}, 240_000);

it('has owner, state, quarantine and links, and says when what was mended came back', async () => {
  const [first, second] = await families();
  await page.goto(`${server.address}/dossiers/${first!.id}`);
  await page.getByLabel('Owner').fill('Deniz');
  await page.getByLabel('Owner').press('Enter');
  await page.getByLabel('Links').fill('javascript:alert(1)');
  await page.getByRole('button', { name: 'Add' }).click();
  await page.getByRole('alert').filter({ hasText: 'An address begins with http' }).waitFor();
  await page.getByLabel('Links').fill('https://tracker.example/LODOS-17');
  await page.getByRole('button', { name: 'Add' }).click();
  await page.getByRole('link', { name: 'tracker.example/LODOS-17' }).waitFor();
  await page.getByLabel('State').selectOption('mended');
  await eventually(families, (list) => list.find(({ id }) => id === first!.id)?.verdict.state === 'mended');
  expect(await awaiting()).toBe(many - 1);

  // It fails again, in a run that began after that.
  const form = new FormData();
  const at = new Date(Date.now() + 60_000).toISOString();
  const which = Number(
    /case (\d+)/.exec(
      JSON.stringify((await json<object>('GET', `${server.address}/api/families/${first!.id}`)).body),
    )![1],
  );
  const xml = `<testsuite name="desk"><testcase classname="desk ${which}" name="case ${which}" timestamp="${at}" time="1"><properties><property name="commit" value="9f2c1aa"/></properties>${failure(which)}</testcase></testsuite>`;
  form.append('run', 'nightly-2');
  form.append('files', new Blob([xml]), 'nightly-2.xml');
  await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
  await eventually(awaiting, (n) => n === many);
  await page.reload();
  await page.getByText('It came back: it was called mended on').waitFor();
  await page.getByRole('link', { name: 'nightly-2' }).waitFor();
  await page.goto(`${server.address}/dossiers?words=deniz`);
  await page.getByText(/came back in nightly-2/).waitFor();

  await page.goto(`${server.address}/dossiers/${second!.id}`);
  await page.getByLabel('State').selectOption('quarantined');
  await page.getByLabel('until').fill('2026-11-01');
  await page.getByText('Its quarantine ended on').waitFor();
  const { verdict } = (await families()).find(({ id }) => id === second!.id)!;
  expect(verdict.state).toBe('quarantined');
  expect(verdict.until).toBeLessThan(Date.now());
  for (let i = 0; i < 2; i++) await page.getByRole('button', { name: 'Undo last decision' }).click();
  await eventually(families, (list) => list.find(({ id }) => id === second!.id)?.verdict.state === 'open');
  expect(troubles).toEqual([]);
}, 120_000);

it('a cause of one’s own is held against what is pinned to it, struck out, and confirmed', async () => {
  const [family] = (await families()).filter(({ verdict }) => !verdict.last) as [Family];
  const { speaking } = (await json<{ speaking: string }>('GET', `${server.address}/api/families/${family.id}`)).body;
  const theirs = async (): Promise<Family['verdict']> => (await families()).find(({ id }) => id === family.id)!.verdict;
  /** By keys: J, what it is kept as, and the words. */
  const keep = async (as: string, fields: Record<string, string>): Promise<void> => {
    await page.keyboard.press('j');
    await page.getByLabel(as).check();
    for (const [label, text] of Object.entries(fields)) await page.getByLabel(label, { exact: true }).fill(text);
    await page.keyboard.press('Enter');
    await page.getByRole('dialog').waitFor({ state: 'hidden' });
  };
  await page.goto(`${server.address}/attempts/${speaking}`);
  await page.getByRole('heading', { level: 1 }).waitFor();
  await page.keyboard.press('j');
  await page.getByRole('dialog', { name: 'Keep this moment' }).waitFor();
  expect(await violationsOf(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.getByRole('dialog').waitFor({ state: 'hidden' });
  await keep('evidence for a cause of your own', {
    'The cause in your own words': 'The desk’s clock is an hour off',
    'What it shows, if that is not plain': 'it says 09:14',
  });
  await keep('evidence against one', { 'What it shows, if that is not plain': 'the pier’s clock is right' });
  await keep('a note with its moment', { 'What is to be seen here': 'here it jumps' });
  const kept = await theirs();
  expect(kept.hypotheses).toMatchObject([
    {
      text: 'The desk’s clock is an hour off',
      state: 'standing',
      for: [{ text: 'it says 09:14', attempt: speaking }],
      against: [{ text: 'the pier’s clock is right', attempt: speaking }],
    },
  ]);
  expect(kept.moments).toMatchObject([{ text: 'here it jumps', attempt: speaking }]);

  await page.goto(`${server.address}/dossiers/${family.id}`);
  const row = page.getByRole('article', { name: 'The desk’s clock is an hour off' });
  await row.getByRole('link', { name: 'it says 09:14' }).waitFor();
  await page.getByRole('link', { name: 'here it jumps' }).waitFor();
  await row.getByRole('button', { name: 'Strike out' }).click();
  await page.getByLabel('Why is it not this?').fill('both go by the same server');
  await page.keyboard.press('Enter');
  await row.getByText('struck out: both go by the same server').waitFor();
  // Half faded out its words have too little contrast.
  await page.getByRole('dialog').waitFor({ state: 'detached' });
  expect(await violationsOf(page)).toEqual([]);
  await row.getByRole('button', { name: 'Confirm' }).click();
  await page.getByText('The cause is The desk’s clock is an hour off.').waitFor();
  const handed = await (await fetch(`${server.address}/api/attempts/${speaking}/hand-over?as=text`)).text();
  expect(handed).toContain('the pier’s clock is right');
  expect(handed).toContain('here it jumps');
  await row.getByRole('button', { name: 'Take off: it says 09:14' }).click();
  await row.getByText('it says 09:14').waitFor({ state: 'detached' });
  // Everything is taken back, the newest first.
  for (let i = 0; i < 7; i++) await json('POST', `${server.address}/api/families/${family.id}/undo`);
  expect(await theirs()).toEqual(family.verdict);
  // What is not there cannot be spoken on.
  for (const body of [
    { kind: 'strike', about: 99_999 },
    { kind: 'unpin', about: kept.moments[0]!.id },
    { kind: 'moment', text: 'x', pin: { attempt: 'nobody' } },
  ])
    expect((await decide(family.id, body)).status, JSON.stringify(body)).toBe(404);
  expect(troubles).toEqual([]);
}, 120_000);

it('refuses what is no decision, in words', async () => {
  const [{ id }] = (await families()) as [Family];
  for (const [body, says] of [
    [{ kind: 'state', text: 'gone' }, /text/],
    [{ kind: 'link', text: 'javascript:alert(1)' }, /uri/],
    [{ kind: 'own', text: 'x', cause: 'early-action' }, /cause/],
    [{ kind: 'confirm', text: '' }, /cause/],
    [{ kind: 'state', text: 'mended', until: 5 }, /until/],
    [{ kind: 'suppose', text: ' ' }, /text/],
    [{ kind: 'speaks-for', about: 1 }, /pin/],
    [{ kind: 'moment', text: 'x', pin: { moment: 4 } }, /attempt/],
    [{ kind: 'note', text: 'x', about: 1 }, /about/],
  ] as const) {
    const { status, body: told } = await decide(id, body);
    expect(status, JSON.stringify(body)).toBe(400);
    expect(told.error!.message).toMatch(says);
  }
});
