import axe from 'axe-core';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ContrastView } from '../src/core/contrast/view.ts';
import { startDemo } from './demo.ts';
import { eventually, json, openBrowser, openScreen } from './helpers.ts';

/** Failing held against passing attempts, on the demo's recorded runs. */
let demo: Awaited<ReturnType<typeof startDemo>>;
let browser: Browser;
let page: Page;
/** A failing attempt by its leading cause. */
const failing = new Map<string, string>();
const troubles: string[] = [];

interface Listed {
  id: string;
  outcome: string;
  state: string;
  leading: { cause: string } | null;
}

beforeAll(async () => {
  demo = await startDemo();
  const { body } = await json<{ runs: { id: string; name: string }[] }>('GET', `${demo.address}/api/runs`);
  for (const run of body.runs.filter(({ name }) => name.startsWith('nightly'))) {
    const attempts = await eventually(
      async () =>
        (await json<{ attempts: Listed[] }>('GET', `${demo.address}/api/runs/${run.id}/attempts`)).body.attempts,
      (list) => list.every(({ state }) => state === 'ready'),
    );
    for (const { id, leading, outcome } of attempts)
      if (leading && outcome === 'failed') failing.set(leading.cause, id);
  }
  browser = await openBrowser();
  page = await openScreen(browser);
  page.on('pageerror', (error) => troubles.push(error.message));
});
afterAll(async () => {
  await browser?.close();
  await demo.stop();
});

const contrastOf = (query: string) =>
  json<ContrastView & { error?: { code: string; message: string } }>('GET', `${demo.address}/api/contrast?${query}`);

describe('GET /api/contrast', () => {
  it('tells where one failing attempt parts from all passing ones, as the contract has it', async () => {
    const { status, body } = await contrastOf(`failing=${failing.get('replaced-element')}`);
    expect(status).toBe(200);
    expect(body.split).toMatchObject({
      stepIndex: expect.any(Number) as number,
      summary: expect.any(String) as string,
    });
    expect(body.passing.length).toBeGreaterThan(0);
    for (const one of body.differences) {
      expect(one.summary.length).toBeGreaterThan(3);
      expect(one.failing[0]).toBeLessThanOrEqual(one.failing[1]);
      expect(one.passing[0]).toBeLessThanOrEqual(one.passing[1]);
      expect(one.p).toBeGreaterThanOrEqual(0);
      expect(one.q).toBeGreaterThanOrEqual(one.p - 1e-9);
      expect(one.dots.failing).toHaveLength(body.failing.length);
      expect(one.dots.passing).toHaveLength(body.passing.length);
    }
    expect(body.differences.some(({ summary }) => summary.includes('stale element reference'))).toBe(true);
  });

  it('holds it against those that are named, and only those', async () => {
    const all = (await contrastOf(`failing=${failing.get('replaced-element')}&where=all`)).body.passing;
    const { body } = await contrastOf(`failing=${failing.get('replaced-element')}&passing=${all[0]!.id}`);
    expect(body.passing.map(({ id }) => id)).toEqual([all[0]!.id]);
    expect(body.weak).toBe(true);
  });

  it.each([
    ['', 400, 'no-attempt', /name at least one/],
    ['failing=a-none', 404, 'not-found', /a-none/],
    ['failing=REAL&passing=a-none', 404, 'not-found', /a-none/],
    ['failing=REAL&where=mars', 400, 'wrong-where', /same, all or elsewhere/],
  ])('says what was wrong: %s', async (query, status, code, words) => {
    const answer = await contrastOf(query.replace('REAL', failing.get('covered-target')!));
    expect(answer.status).toBe(status);
    expect(answer.body.error).toMatchObject({ code, message: expect.stringMatching(words) as string });
  });
});

describe('the contrast screen', () => {
  it('is one key from the bench, and a difference one key from its evidence there', async () => {
    const id = failing.get('replaced-element')!;
    await page.goto(`${demo.address}/attempts/${id}`);
    await page.locator('.plank').first().waitFor();
    await page.keyboard.press('c');
    await page.waitForURL(/\/contrast\?failing=/);
    await page.locator('.board').first().waitFor();
    expect(await page.locator('h1').innerText()).toMatch(/^They part at step \d+: /);
    expect(await page.locator('.split').innerText()).toBe('they part here');
    expect(await page.locator('.board.left').count()).toBeGreaterThan(2);
    expect(await page.locator('.board.right').count()).toBeGreaterThan(2);
    await page.keyboard.press('ArrowDown');
    await page.waitForURL(/difference=2/);
    const chosen = await page.locator('.row.on .words').innerText();
    await page.reload();
    await page.locator('.row.on').waitFor();
    expect(await page.locator('.row.on .words').innerText()).toBe(chosen);
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/attempts\/[^?]+\?at=/);
    await page.locator('.plank').first().waitFor();
  });

  it('draws every plank where nothing covers it, and shows each side of a difference by dots and by counts', async () => {
    await page.goto(`${demo.address}/contrast?failing=${failing.get('early-action')}&with=family`);
    await page.locator('.board').first().waitFor();
    const boxes = await page
      .locator('.board')
      .evaluateAll((all) => all.map((one) => one.getBoundingClientRect().toJSON() as DOMRect));
    for (const [i, a] of boxes.entries())
      for (const b of boxes.slice(i + 1))
        expect(a.right <= b.left || b.right <= a.left || a.bottom <= b.top + 0.5 || b.bottom <= a.top + 0.5).toBe(true);
    const row = page.locator('button.row').first();
    const [hits, of] = (await row.locator('small').first().innerText()).split(' of ').map(Number) as [number, number];
    expect(hits).toBeGreaterThan(0);
    expect(await row.locator('svg.brick circle, svg.brick path').count()).toBe(of);
  });

  it('says how little one attempt against none is, and what will change it', async () => {
    await page.goto(
      `${demo.address}/contrast?failing=${failing.get('covered-target')}&passing=${failing.get('covered-target')}x`,
    );
    await page.getByRole('alert').waitFor();
    expect(await page.getByRole('alert').innerText()).toContain('there is no attempt');
  });

  it.each(['light', 'dark'] as const)('has no serious accessibility violation (%s)', async (colorScheme) => {
    await page.emulateMedia({ colorScheme });
    await page.goto(`${demo.address}/contrast?failing=${failing.get('replaced-element')}`);
    await page.locator('.board').first().waitFor();
    await page.evaluate(axe.source);
    const { violations } = await page.evaluate(async () =>
      (window as unknown as { axe: typeof axe }).axe.run(document, { resultTypes: ['violations'] }),
    );
    const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
    expect(serious.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
    expect(troubles).toEqual([]);
  });
});
