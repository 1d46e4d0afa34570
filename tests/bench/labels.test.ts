import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, openScreen, startServerProcess, type ServerProcess } from '../helpers.ts';
import { crowdedAttempts } from '../crowded.ts';

/** Labels of the scaffold never touch, and what is cut can be read, however crowded the attempt and from however far it is seen. */

let server: ServerProcess;
let browser: Browser;
let page: Page;
let data: string;
let ids: string[];
const troubles: string[] = [];
const counts = [300, 1000, 10_000];

beforeAll(async () => {
  data = mkdtempSync(join(tmpdir(), 'iskel-labels-'));
  ({ ids } = await crowdedAttempts(data, counts));
  server = await startServerProcess({ data });
  browser = await openBrowser();
  page = await openScreen(browser);
  page.on('pageerror', (error) => troubles.push(error.message));
});
afterAll(async () => {
  await browser.close();
  await server.stop();
  rmSync(data, { recursive: true, force: true });
});

interface Seen {
  text: string;
  left: number;
  right: number;
  top: number;
  bottom: number;
  cut: boolean;
  told: boolean;
}

const labelsOf = (of: Page): Promise<Seen[]> =>
  of.locator('.sheet .label, .sheet .pennant').evaluateAll((list) =>
    list.map((el) => {
      const { left, right, top, bottom } = el.getBoundingClientRect();
      const parts = [el, ...el.querySelectorAll('*')] as HTMLElement[];
      return {
        text: (el as HTMLElement).innerText.replaceAll('\n', ' '),
        left,
        right,
        top,
        bottom,
        cut: parts.some((part) => part.scrollWidth > part.clientWidth + 1 || part.scrollHeight > part.clientHeight + 1),
        told: el.hasAttribute('title') || el.hasAttribute('aria-label'),
      };
    }),
  );

function touching(labels: readonly Seen[]): string[] {
  const out: string[] = [];
  const sorted = [...labels].sort((a, b) => a.top - b.top);
  sorted.forEach((a, i) => {
    for (let j = i + 1; j < sorted.length && sorted[j]!.top < a.bottom - 1; j++) {
      const b = sorted[j]!;
      if (Math.min(a.right, b.right) - Math.max(a.left, b.left) > 1 && Math.min(a.bottom, b.bottom) - b.top > 1)
        out.push(
          `“${a.text}” and “${b.text}” (${Math.round(a.left)},${Math.round(a.top)} and ${Math.round(b.left)},${Math.round(b.top)})`,
        );
    }
  });
  return out;
}

describe.each(counts)('with %i events', (count) => {
  it.each([
    ['as it opens', []],
    ['from nearer', ['+', '+']],
    ['from further', ['-', '-', '-']],
    ['as a whole', ['0']],
    ['in true time', ['t']],
  ] as const)('no two labels touch, and what is cut can be read: %s', async (_name, keys) => {
    await page.goto(`${server.address}/attempts/${ids[counts.indexOf(count)]}`);
    await page.locator('.plank').first().waitFor();
    for (const key of keys) await page.keyboard.press(key);
    let seen = 0;
    for (const at of [0.02, 0.4, 0.8]) {
      await page.locator('.view').evaluate((view, share) => (view.scrollTop = view.scrollHeight * share), at);
      await page.waitForTimeout(250);
      const labels = await labelsOf(page);
      seen += labels.length;
      expect(touching(labels)).toEqual([]);
      expect(labels.filter(({ cut, told }) => cut && !told).map(({ text }) => text)).toEqual([]);
    }
    // Seen as a whole, a large attempt is drawn as bars without words; in true time one may look at silence.
    if (keys[0] !== '0' && keys[0] !== 't') expect(seen).toBeGreaterThan(10);
  });
});

it('a large attempt is drawn as bars from afar and one by one from near, and the level finds its surroundings', async () => {
  await page.goto(`${server.address}/attempts/${ids[2]}`);
  await page.locator('.plank').first().waitFor();
  await page.keyboard.press('0');
  await page.locator('.head', { hasText: 'as bars' }).first().waitFor();
  expect(await page.locator('.plank').count()).toBe(0);
  const { until, events } = (await (await fetch(`${server.address}/api/attempts/${ids[2]}/outline`)).json()) as {
    until: number;
    events: unknown[];
  };
  expect(events.length).toBeLessThan(10_000);
  await page.goto(`${server.address}/attempts/${ids[2]}?at=${Math.round(until * 0.7)}`);
  await page.locator('.plank').first().waitFor();
  const level = async (): Promise<number> => Number(await page.getByRole('slider').getAttribute('aria-valuenow'));
  const before = await level();
  for (let i = 0; i < 40; i++) await page.keyboard.press('ArrowDown');
  expect(await level()).toBeGreaterThan(before);
  await page.waitForTimeout(300);
  expect(await page.locator('.plank').count()).toBeGreaterThan(3);
});

it('threw nothing on the way', () => {
  expect(troubles).toEqual([]);
});
