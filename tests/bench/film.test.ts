import sharp from 'sharp';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { json, openBrowser, openScreen, ready, startServerProcess, type ServerProcess } from '../helpers.ts';
import { film } from '../intake/helpers.ts';

/** An attempt of which another runner left only a report, one screenshot and a video of a second, 25 frames. */

const frames = 25;
const startedAt = Date.UTC(2026, 10, 2, 20, 15, 0);
let server: ServerProcess;
let browser: Browser;
let page: Page;
let id: string;

/** A picture that shows its number as five squares, black or white. */
const numbered = (number: number): Promise<Buffer> =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="480" height="300"><rect width="480" height="300" fill="#888"/>${[
        0, 1, 2, 3, 4,
      ]
        .map(
          (bit) =>
            `<rect x="${bit * 96 + 8}" y="60" width="80" height="180" fill="${(number >> bit) & 1 ? '#fff' : '#000'}"/>`,
        )
        .join('')}</svg>`,
    ),
  )
    .png()
    .toBuffer();

/** The number of the frame that the player shows, read off its picture. */
const shown = (): Promise<number> =>
  page.evaluate(async () => {
    const video = document.querySelector('video')!;
    // The words above the picture say which frame is asked for; the video may still be on its way there.
    const asked = Number(/video frame (\d+) of/.exec(document.querySelector('.head span')!.textContent)?.[1]) - 1;
    const there = (): boolean =>
      !video.seeking &&
      video.readyState >= 2 &&
      (Number.isNaN(asked) || Math.floor(video.currentTime / 0.04 + 0.01) === asked);
    for (let waited = 0; waited < 3000 && !there(); waited += 10) await new Promise((done) => setTimeout(done, 10));
    await new Promise((done) => setTimeout(done, 30));
    const canvas = new OffscreenCanvas(480, 300);
    const draw = canvas.getContext('2d')!;
    draw.drawImage(video, 0, 0, 480, 300);
    let number = 0;
    for (let bit = 0; bit < 5; bit++)
      if (draw.getImageData(bit * 96 + 48, 150, 1, 1).data[0]! > 128) number |= 1 << bit;
    return number;
  });
const level = async (): Promise<number> => Number(await page.getByRole('slider').getAttribute('aria-valuenow'));

beforeAll(async () => {
  server = await startServerProcess();
  browser = await openBrowser();
  page = await openScreen(browser);
  const pictures = await Promise.all(Array.from({ length: frames }, (_, i) => numbered(i)));
  const video = film(pictures.map((bytes) => ({ bytes, ms: 40 })));
  const stamp = new Date(startedAt).toISOString().slice(0, 19);
  const report = `<testsuite name="boarding" timestamp="${stamp}" tests="1" failures="1">
    <testcase classname="boarding" name="shows the pass" time="1.4"><failure message="expected &quot;Mert Kaya&quot; but got &quot;&quot;">AssertionError: expected "Mert Kaya" but got ""
    at tests/pass.ts:31:7</failure><system-out>[[ATTACHMENT|pass-film.webm]] [[ATTACHMENT|pass.png]]</system-out></testcase></testsuite>`;
  const form = new FormData();
  const add = (name: string, bytes: Buffer | string): void => form.append('file', new Blob([bytes as BlobPart]), name);
  add('results.xml', report);
  add('pass-film.webm', video);
  add('pass.png', await numbered(31));
  const answer = await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
  expect(answer.status).toBeLessThan(300);
  const { runs } = (await json<{ runs: { id: string }[] }>('GET', `${server.address}/api/runs`)).body;
  const { attempts } = (
    await json<{ attempts: { id: string }[] }>('GET', `${server.address}/api/runs/${runs[0]!.id}/attempts`)
  ).body;
  id = attempts[0]!.id;
  await ready(server.address, id);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

describe('a report, a screenshot and a video', () => {
  it('make a bench that says what happened, what is missing and how to get it', async () => {
    await page.goto(`${server.address}/attempts/${id}`);
    await page.getByRole('slider').waitFor();
    expect(await page.locator('h1').innerText()).toContain('“Mert Kaya”');
    expect(await page.locator('.under').innerText()).toContain('pass.ts:31');
    const sources = await page.getByRole('region', { name: 'Sources and their clocks' }).innerText();
    for (const words of ['no steps', 'no requests', 'no console', 'no lifelines', '/wd'])
      expect(sources).toContain(words);
    await page.keyboard.press('l');
    await page.getByText('No line was recorded.').waitFor();
    await page.keyboard.press('m');
    await page.getByText('No structure of the page was kept.').waitFor();
    await page.keyboard.press('m');
  });

  it('the video is stepped through frame by frame, both ways, each frame its own picture', async () => {
    const { events } = (
      await json<{ events: { lane: string; kind: string; at: number }[] }>(
        'GET',
        `${server.address}/api/attempts/${id}/events?lane=screen`,
      )
    ).body;
    const starts = events.find((event) => event.kind === 'video')!.at;
    await page.goto(`${server.address}/attempts/${id}?at=${(starts + 1).toFixed(1)}`);
    await page.locator('video, .stage img').first().waitFor();
    await page.getByRole('checkbox', { name: 'the video' }).check();
    await page.locator('video').waitFor();
    await page.waitForFunction(() => document.querySelector('.head span')?.textContent?.includes('video frame 1 of'));
    const walk = async (key: string, last: number): Promise<number[]> => {
      const seen = [await shown()];
      // The screenshot lies somewhere between and is one stop more.
      for (let i = 0; i <= frames && seen.at(-1) !== last; i++) {
        await page.keyboard.press(key);
        const frame = await shown();
        expect(Math.abs((await level()) - starts - frame * 40)).toBeLessThanOrEqual(40);
        if (frame !== seen.at(-1)) seen.push(frame);
      }
      return seen;
    };
    const all = Array.from({ length: frames }, (_, i) => i);
    expect(await walk('Shift+ArrowDown', frames - 1)).toEqual(all);
    expect(await walk('Shift+ArrowUp', 0)).toEqual(all.toReversed());
  });
});
