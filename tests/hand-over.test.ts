import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Browser } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WebDriver } from '../demo/suite/webdriver.ts';
import { startDemo } from './demo.ts';
import { eventually, json, openBrowser, openScreen, violationsOf } from './helpers.ts';

/** One page for somebody who has no Iskel, of a failure of the demo: from the screen, and in every engine. */
let demo: Awaited<ReturnType<typeof startDemo>>;
let browser: Browser;
let attempt = '';
const folder = mkdtempSync(join(tmpdir(), 'iskel-hand-over-'));
const file = join(folder, 'page.html');

interface Listed {
  id: string;
  outcome: string;
  state: string;
  leading: { cause: string } | null;
}

beforeAll(async () => {
  // Else no file is opened in the browsers it starts.
  demo = await startDemo({ ISKEL_LAUNCH: 'any' });
  const { body } = await json<{ runs: { id: string; name: string }[] }>('GET', `${demo.address}/api/runs`);
  const run = body.runs.find(({ name }) => name === 'nightly-184')!;
  const attempts = await eventually(
    async () =>
      (await json<{ attempts: Listed[] }>('GET', `${demo.address}/api/runs/${run.id}/attempts`)).body.attempts,
    (list) => list.length > 0 && list.every(({ state }) => state === 'ready'),
  );
  attempt = attempts.find(({ leading, outcome }) => outcome === 'failed' && leading?.cause === 'replaced-element')!.id;
  browser = await openBrowser();
});
afterAll(async () => {
  await browser?.close();
  await demo.stop();
  rmSync(folder, { recursive: true, force: true });
});

const handedOver = async (query = ''): Promise<Response> =>
  fetch(`${demo.address}/api/attempts/${attempt}/hand-over${query}`);

it('is looked at, a part left out, a picture covered by hand, and saved', async () => {
  const page = await openScreen(browser);
  const troubles: string[] = [];
  page.on('pageerror', (error) => troubles.push(error.message));
  page.on('console', (line) => line.type() === 'error' && troubles.push(line.text()));
  await page.goto(`${demo.address}/attempts/${attempt}`);
  await page.getByRole('link', { name: 'One page for a developer' }).click();
  const sheet = page.frameLocator('iframe[title="The page as it leaves"]');
  await sheet.getByRole('heading', { name: /Press on “Hold seat” hit an element/ }).waitFor();
  expect(await sheet.getByRole('heading', { level: 2 }).allTextContents()).toEqual(
    expect.arrayContaining(['What to do', 'Suspects', 'The screen', 'Steps', 'What parted it from passing attempts']),
  );
  expect(await violationsOf(page)).toEqual([]);

  await page.getByRole('checkbox', { name: 'Circumstances' }).uncheck();
  await sheet.getByRole('heading', { name: 'Circumstances' }).waitFor({ state: 'detached' });
  expect(page.url()).toContain('without=circumstances');
  // Its lower right quarter, by the pointer; then moved by a key.
  const picture = page.getByRole('group', { name: /The screen when it failed/ });
  const before = await pictureIn(sheet.locator('figure img').first());
  const box = (await picture.boundingBox())!;
  await page.mouse.move(box.x + box.width * 0.5, box.y + box.height * 0.5);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.98, box.y + box.height * 0.98, { steps: 4 });
  await page.mouse.up();
  await page.getByRole('group', { name: /The screen when it failed.*1 covered/ }).waitFor();
  await picture.focus();
  await page.keyboard.press('ArrowUp');
  await eventually(
    () => pictureIn(sheet.locator('figure img').first()),
    (now) => !now.equals(before),
  );
  const saving = page.waitForEvent('download');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Save the page' }).click();
  await (await saving).saveAs(file);
  const saved = readFileSync(file, 'utf8');
  expect(saved.length).toBeLessThan(3_000_000);
  expect(saved).not.toContain('<script');
  // The button that stood there cannot be made out any more: what is left are few flat squares.
  const [was, is] = await Promise.all([before, fromPage(saved)].map((bytes) => edgesAt(bytes, [0.7, 0.85, 0.28, 0.1])));
  expect(was).toBeGreaterThan(100);
  expect(is!).toBeLessThan(was! / 4);
  expect(troubles).toEqual([]);
}, 120_000);

it('as text and as Markdown says the same, and says what it cannot give', async () => {
  const text = await (await handedOver('?as=text')).text();
  const markdown = await handedOver('?as=markdown&without=steps,console');
  expect(text).toContain('hit an element that had already been replaced or removed');
  expect(text).toContain(`${demo.address}/attempts/${attempt}?at=`);
  expect(markdown.headers.get('content-disposition')).toBe(`attachment; filename="${attempt}.md"`);
  const written = await markdown.text();
  expect(written).toContain('## Suspects');
  expect(written).not.toContain('## Steps');
  expect((await handedOver('?as=pdf')).status).toBe(400);
  expect((await fetch(`${demo.address}/api/attempts/a-none/hand-over`)).status).toBe(404);
});

it('opens from a file in every engine: nothing is asked for, all pictures are there, it prints on A4', async () => {
  writeFileSync(file, await (await handedOver()).text());
  const page = await browser.newPage({ viewport: { width: 1024, height: 700 } });
  const asked: string[] = [];
  page.on('request', (request) => asked.push(request.url()));
  await page.goto(pathToFileURL(file).href);
  expect(asked.filter((url) => !url.startsWith('data:'))).toEqual([pathToFileURL(file).href]);
  expect(await violationsOf(page)).toEqual([]);
  const pdf = await page.pdf({ format: 'A4', printBackground: true });
  // Nothing is wider than the paper, so that it is not made smaller to fit.
  await page.emulateMedia({ media: 'print' });
  await page.setViewportSize({ width: 690, height: 900 });
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(690);
  expect(pdf.toString('latin1').match(/\/MediaBox \[0 0 59[45]/)).not.toBeNull();
  await page.close();
  const { engines } = (await json<{ engines: { name: string }[] }>('GET', `${demo.address}/api/health`)).body;
  expect(engines.map(({ name }) => name)).toContain('chromium');
  for (const { name } of engines) {
    const driver = await WebDriver.open(`${demo.address}/wd`, { browserName: name });
    try {
      await driver.open(pathToFileURL(file).href);
      const told = await driver.run<{ title: string; pictures: number[]; asked: number }>(
        'return { title: document.title, pictures: [...document.images].map((one) => one.naturalWidth), asked: performance.getEntriesByType("resource").filter(({ name }) => !name.startsWith("data:")).length }',
      );
      expect(told.title, name).toContain('Hold seat');
      expect(told.pictures.length, name).toBe(3);
      expect(Math.min(...told.pictures), name).toBeGreaterThan(400);
      expect(told.asked, name).toBe(0);
    } finally {
      await driver.quit();
    }
  }
}, 180_000);

it('the console of a whole run is one text', async () => {
  const { body } = await json<{ runs: { id: string; name: string }[] }>('GET', `${demo.address}/api/runs`);
  const { id } = body.runs.find(({ name }) => name === 'nightly-184')!;
  const answer = await fetch(`${demo.address}/api/runs/${id}/console`);
  expect(answer.headers.get('content-type')).toContain('text/plain');
  const text = await answer.text();
  expect(text.match(/^# .*, attempt \d+, chromium/gm)!.length).toBeGreaterThan(3);
  expect(text).toMatch(/^2026-\d\d-\d\dT.* (ERROR|WARNING|INFO|DEBUG)/m);
});

const bytesOf = (source: string): Buffer => Buffer.from(source.slice(source.indexOf(',') + 1), 'base64');
const pictureIn = async (image: { getAttribute(name: string): Promise<string | null> }): Promise<Buffer> =>
  bytesOf((await image.getAttribute('src')) ?? '');
const fromPage = (page: string): Buffer => bytesOf(/<img\s+src="([^"]+)"/.exec(page)![1]!);

/** How many neighbouring pixels of a part of a picture differ clearly: letters and edges do. */
async function edgesAt(
  bytes: Buffer,
  [x, y, width, height]: readonly [number, number, number, number],
): Promise<number> {
  const { data, info } = await sharp(bytes).greyscale().raw().toBuffer({ resolveWithObject: true });
  let edges = 0;
  for (let row = Math.floor(y * info.height); row < (y + height) * info.height; row++)
    for (let column = Math.floor(x * info.width); column < (x + width) * info.width - 1; column++) {
      const at = (row * info.width + column) * info.channels;
      if (Math.abs(data[at]! - data[at + info.channels]!) > 30) edges++;
    }
  return edges;
}
