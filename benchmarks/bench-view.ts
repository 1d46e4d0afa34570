// The bench with attempts of 1,000, 10,000 and 100,000 events, in headless Chromium with the server on the same machine:
// how long it takes to open, what a frame costs while scrolling, zooming and moving the level, and the memory of the tab.
// Run: npm run bench:view [rounds]
import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { crowdedAttempts } from '../tests/crowded.ts';
import { openBrowser, startServerProcess } from '../tests/helpers.ts';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const counts = [1000, 10_000, 100_000];
const rounds = Number(process.argv[2]) || 3;
const frames = 150;

const data = mkdtempSync(join(tmpdir(), 'iskel-view-'));
const { run, ids } = await crowdedAttempts(data, counts);
const server = await startServerProcess({ data });
const browser = await openBrowser();

const median = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;
const at95 = (list: number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length * 0.95)]!;

/** From the press that leads to the bench, in an application that is open already, to its first plank on the screen. */
async function opening(page: Page, id: string): Promise<number> {
  await page.goto(`${server.address}/runs/${run}`);
  await page.waitForSelector(`a[href*="${id}"]`);
  await page.waitForTimeout(400);
  const took = page.evaluate(async (wanted) => {
    const from = performance.now();
    document.querySelector<HTMLElement>(`a[href*="${wanted}"]`)!.click();
    await new Promise<void>((done) => {
      const look = (): void => (document.querySelector('.plank') ? done() : void requestAnimationFrame(look));
      look();
    });
    return performance.now() - from;
  }, id);
  const limit = new Promise<never>((_, fail) => setTimeout(() => fail(new Error('no plank in 20 s')), 20_000));
  return Promise.race([took, limit]);
}

/** What each frame costs the page's own thread, from its first callback to after its layout and paint, ms. */
async function costs(page: Page, what: 'scroll' | 'zoom' | 'level', count: number): Promise<number[]> {
  return page.evaluate(
    async ({ kind, most }) => {
      const view = document.querySelector<HTMLElement>('.view')!;
      const key = (name: string): boolean =>
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }));
      const list: number[] = [];
      const channel = new MessageChannel();
      for (let i = 0; i < most; i++) {
        list.push(
          await new Promise<number>((done) => {
            requestAnimationFrame(() => {
              const from = performance.now();
              channel.port1.onmessage = () => done(performance.now() - from);
              if (kind === 'scroll') view.scrollTop += i < most / 2 ? 90 : -70;
              else if (kind === 'level') key(i < most * 0.8 ? 'ArrowDown' : 'ArrowUp');
              else key(i % 30 < 15 ? '-' : '+');
              channel.port2.postMessage(0);
            });
          }),
        );
      }
      return list;
    },
    { kind: what, most: count },
  );
}

/** What the tab's own process takes, MB: its share of memory as the system counts it. */
async function memory(page: Page): Promise<number> {
  const session = await browser.newBrowserCDPSession();
  const { processInfo } = (await session.send('SystemInfo.getProcessInfo')) as {
    processInfo: { type: string; id: number; cpuTime: number }[];
  };
  await session.detach();
  await page.waitForTimeout(100);
  const sizes = processInfo
    .filter(({ type }) => type === 'renderer')
    .map(({ id }) => {
      try {
        return Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${id}/smaps_rollup`, 'utf8'))?.[1] ?? 0) / 1024;
      } catch {
        return 0;
      }
    });
  return Math.max(...sizes);
}

console.log('events    open ms   scroll p95   zoom p95   level p95   memory MB   (medians of rounds)');
for (const [i, count] of counts.entries()) {
  const seen = {
    open: [] as number[],
    scroll: [] as number[],
    zoom: [] as number[],
    level: [] as number[],
    memory: [] as number[],
  };
  for (let round = 0; round < rounds; round++) {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    // The names that tsx keeps of functions are nothing to the page.
    await context.addInitScript('globalThis.__name = (one) => one');
    const page = await context.newPage();
    // The second opening counts: the first one also loads the screen's own code.
    await opening(page, ids[i]!);
    seen.open.push(await opening(page, ids[i]!));
    await page.waitForTimeout(500);
    seen.scroll.push(at95(await costs(page, 'scroll', frames)));
    seen.level.push(at95(await costs(page, 'level', frames)));
    seen.zoom.push(at95(await costs(page, 'zoom', frames)));
    seen.memory.push(await memory(page));
    await context.close();
  }
  const cells = [median(seen.open), median(seen.scroll), median(seen.zoom), median(seen.level), median(seen.memory)];
  console.log(`${String(count).padEnd(8)}  ${cells.map((cell) => cell.toFixed(1).padStart(9)).join('  ')}`);
}
await browser.close();
await server.stop();
rmSync(data, { recursive: true, force: true });
