import { createHash } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import sharp from 'sharp';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import type { EvidenceEvent } from '../../src/core/evidence/event.ts';
import { writePack } from '../../src/core/formats/pack.ts';
import {
  chromeArguments,
  json,
  openBrowser,
  openScreen,
  ready,
  startServerProcess,
  type ServerProcess,
} from '../helpers.ts';

/** What the bench draws over pictures, and the markup it shows, on sessions recorded of pages made for it. */

let server: ServerProcess;
let site: Server;
let origin: string;
let browser: Browser;
let page: Page;
/** Everything anybody asked the site for. */
const asked: string[] = [];

const target = 'background:#ff00ff;border:0;width:120px;height:40px;color:#ff00ff;outline:0';
/** Seconds until the hostile page leaves for another: long enough to be recorded on a slow machine. */
const refreshAfter = 60;
const pages: Record<string, string> = {
  '/tall': `<body style="margin:0;background:#fff"><div style="height:1400px"></div>
    <button id="target" style="position:absolute;left:333px;top:900px;${target}">press</button><div style="height:900px"></div>`,
  '/frames': `<body style="margin:0;background:#fff"><div style="height:700px"></div>
    <iframe id="mid" src="/mid" style="margin-left:61px;border:7px solid #123;padding:5px 9px;width:640px;height:420px"></iframe><div style="height:900px"></div>`,
  '/mid': `<body style="margin:0;background:#eee"><div style="height:260px"></div>
    <iframe id="deep" src="/deep" style="margin-left:43px;border:3px solid #456;width:400px;height:300px"></iframe><div style="height:300px"></div>`,
  '/deep': `<body style="margin:0;background:#fff"><div style="height:240px"></div>
    <button id="target" style="margin-left:77px;${target}">press</button><div style="height:400px"></div>`,
  '/hostile': `<html><head><meta http-equiv="refresh" content="${refreshAfter};url=/ran?refresh"><link rel="stylesheet" href="/fetched.css">
    <style>@import "/fetched-import.css"; body { background: url(/fetched-bg.png) } .x { background: u\\72l(/fetched-escaped.png) }</style>
    <script>window.own = 1</script></head>
    <body onload="fetch('/ran?onload')"><h1>Hostile &lt;page&gt;</h1>
    <img src="/fetched-img.png" onerror="fetch('/ran?onerror')"><svg onload="fetch('/ran?svg')"><image href="/fetched-svg.png"/></svg>
    <a id="link" href="javascript:fetch('/ran?link')">a link</a><form id="form" action="/ran?form"><input name="q" value="kept" autofocus onfocus="fetch('/ran?focus')"><button>send</button></form>
    <iframe src="/fetched-frame"></iframe><video src="/fetched.webm" poster="/fetched-poster.png"></video>
    <p style="background-image:url('/fetched-style.png')">in a style</p><object data="/fetched-object"></object><embed src="/fetched-embed">
    <template><img src="/fetched-template.png" onerror="fetch('/ran?template')"></template></body></html>`,
};

beforeAll(async () => {
  site = createServer((request, response) => {
    asked.push(request.url ?? '');
    const body = pages[request.url ?? ''];
    response.writeHead(body ? 200 : 404, { 'content-type': 'text/html' });
    response.end(body ?? '');
  });
  await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
  origin = `http://127.0.0.1:${(site.address() as AddressInfo).port}`;
  server = await startServerProcess();
  browser = await openBrowser();
  page = await openScreen(browser);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
  site.closeAllConnections();
  site.close();
});

const session = (title: string, more: string[] = []): Promise<WebDriver> =>
  WebDriver.open(`${server.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: [...chromeArguments, ...more] },
    'iskel:attempt': { run: 'on the picture', test: { suite: 'bench', title } },
  });
const eventsOf = async (id: string): Promise<EvidenceEvent[]> =>
  (await json<{ events: EvidenceEvent[] }>('GET', `${server.address}/api/attempts/${id}/events?limit=10000`)).body
    .events;

interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** Where the one magenta thing is on a picture, in CSS pixels of its window. */
async function magentaOn(blob: string, cssWidth: number): Promise<Box> {
  const bytes = Buffer.from(await (await fetch(`${server.address}/api/blobs/${blob}`)).arrayBuffer());
  const { data, info } = await sharp(bytes).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  let [left, right, top, bottom] = [Infinity, -1, Infinity, -1];
  for (let i = 0; i < info.width * info.height; i++) {
    if (data[i * 3]! < 200 || data[i * 3 + 1]! > 90 || data[i * 3 + 2]! < 200) continue;
    const x = i % info.width;
    const y = Math.floor(i / info.width);
    [left, right, top, bottom] = [Math.min(left, x), Math.max(right, x), Math.min(top, y), Math.max(bottom, y)];
  }
  const scale = cssWidth / info.width;
  return { x: left * scale, y: top * scale, width: (right + 1 - left) * scale, height: (bottom + 1 - top) * scale };
}

describe.each([1, 1.5, 2])('at a pixel ratio of %f', (ratio) => {
  it.each([
    ['on a scrolled page', '/tall', []],
    ['in a frame in a frame', '/frames', ['#mid', '#deep']],
  ] as const)(
    'the target and the press are marked where they are, %s',
    async (_where, path, frames) => {
      const driver = await session(`${path} at ${ratio}`, [`--force-device-scale-factor=${ratio}`]);
      await driver.open(origin + path);
      for (const frame of frames) {
        const element = await driver.find(frame);
        await driver.send('POST', '/frame', { id: { 'element-6066-11e4-a52e-4f735466cecf': element.id } });
      }
      await (await driver.find('#target')).click();
      await new Promise((done) => setTimeout(done, 500));
      await driver.screenshot();
      await driver.outcome('passed');
      await driver.quit();
      const id = driver.attempt;
      await ready(server.address, id);
      const events = await eventsOf(id);
      const press = events.find((event) => event.lane === 'step' && event.data.action === 'press')!;
      const shot = events.findLast((event) => event.lane === 'screen' && event.kind === 'screenshot')!;
      if (shot.lane !== 'screen') throw new Error('no screenshot');
      const frame = events.findLast((event) => event.lane === 'screen' && event.kind === 'frame');
      if (frame?.lane !== 'screen') throw new Error('no frame');

      // The page stood still from the press on: the last picture shows what the press met.
      await page.goto(`${server.address}/attempts/${id}?at=${press.until! + 60}`);
      const drawn = page.locator('svg .target');
      await drawn.waitFor();
      const number = async (name: string, of = drawn): Promise<number> => Number(await of.getAttribute(name));
      const svg = page.locator('.stage svg');
      const [, , shownWidth] = (await svg.getAttribute('viewBox'))!.split(' ').map(Number);
      const margin = shownWidth! / 400;
      const box = {
        x: (await number('x')) + margin,
        y: (await number('y')) + margin,
        width: (await number('width')) - 2 * margin,
        height: (await number('height')) - 2 * margin,
      };
      const mark = page.locator('svg .press');
      const point = { x: await number('data-x', mark), y: await number('data-y', mark) };
      const trueOn = {
        frame: await magentaOn(frame.data.blob, frame.data.width),
        screenshot: await magentaOn(shot.data.blob, shot.data.width / shot.data.scale),
      };
      expect(shot.data.scale).toBe(ratio);
      for (const [name, real] of Object.entries(trueOn)) {
        const off = {
          x: box.x - real.x,
          y: box.y - real.y,
          width: box.width - real.width,
          height: box.height - real.height,
        };
        for (const [side, by] of Object.entries(off))
          expect(Math.abs(by), `${side} on the ${name}: ${JSON.stringify({ box, real })}`).toBeLessThanOrEqual(2);
        expect(Math.abs(point.x - (real.x + real.width / 2)), `press x on the ${name}`).toBeLessThanOrEqual(2);
        expect(Math.abs(point.y - (real.y + real.height / 2)), `press y on the ${name}`).toBeLessThanOrEqual(2);
      }
    },
    60_000,
  );
});

describe('recorded markup', () => {
  it('is shown, runs nothing and fetches nothing, and locators are tried against it', async () => {
    const driver = await session('hostile markup');
    await driver.open(`${origin}/hostile`);
    await driver.find('#link');
    await new Promise((done) => setTimeout(done, 300));
    await driver.outcome('failed', 'made to fail');
    await driver.quit();
    const id = driver.attempt;
    await ready(server.address, id);
    const structures = (await eventsOf(id)).filter((event) => event.lane === 'page' && event.kind === 'structure');
    expect(structures.length).toBeGreaterThan(0);
    for (const { data } of structures) {
      const kept = await (await fetch(`${server.address}/api/blobs/${(data as { blob: string }).blob}`)).text();
      expect(kept).not.toMatch(/<meta|<script|\son\w+=/i);
    }

    asked.length = 0;
    const reached: string[] = [];
    const listen = (request: { url(): string }): void => void reached.push(request.url());
    page.on('request', listen);
    await page.goto(`${server.address}/attempts/${id}?side=structure`);
    const frame = page.frameLocator('iframe[title="The recorded page, inert"]');
    await frame.locator('h1').waitFor();
    expect(await frame.locator('h1').innerText()).toBe('Hostile <page>');
    expect(await frame.locator('input').inputValue()).toBe('kept');
    await frame.locator('#link').dispatchEvent('click');
    await page.getByLabel('Locator to try').fill('a, h1');
    await page.getByText('2 elements match').waitFor();
    expect(await frame.locator('[data-iskel-match]').count()).toBe(2);
    await page.getByLabel('Locator to try').fill('a[');
    await page.getByText('cannot be read as css selector').waitFor();
    await page.getByLabel('How the locator is meant').selectOption('xpath');
    await page.getByLabel('Locator to try').fill('//p[contains(., "style")]');
    await page.getByText('1 element matches').waitFor();
    await page.waitForTimeout(1500);
    page.off('request', listen);
    expect(asked).toEqual([]);
    expect(reached.filter((url) => !url.startsWith(server.address) && !url.startsWith('data:'))).toEqual([]);
    expect(reached.filter((url) => /ran|fetched/.test(url))).toEqual([]);
  });

  it('even raw, as a pack of somebody else may bring it, does nothing', async () => {
    // Were its refresh obeyed, that would be seen within this test.
    const hostile = pages['/hostile']!.replace(`content="${refreshAfter};`, 'content="1;');
    const raw = Buffer.from(hostile.replaceAll('="/', `="${origin}/`).replaceAll('(/', `(${origin}/`));
    const blob = createHash('sha256').update(raw).digest('hex');
    const pack = writePack({
      attempt: {
        run: { name: 'somebody else', startedAt: 1_795_000_000_000 },
        test: { suite: 'markup', title: 'raw' },
        number: 1,
        outcome: 'passed',
        environment: { browser: 'chromium', version: '156' },
        startedAt: 1_795_000_000_000,
        durationMs: 900,
        message: '',
        stack: '',
        labels: {},
      },
      events: [
        {
          id: 'e1',
          lane: 'step',
          kind: 'command',
          at: 5,
          until: 9,
          clock: 'recorder',
          data: { command: 'navigate to', action: 'open', label: 'Open' },
        },
        {
          id: 'e2',
          lane: 'page',
          kind: 'structure',
          at: 20,
          clock: 'page',
          data: { blob, address: `${origin}/hostile`, count: 20 },
        },
      ],
      blobs: new Map([[blob, { bytes: raw, mime: 'text/html' }]]),
    });
    const form = new FormData();
    form.append('file', new Blob([pack as BlobPart]), 'raw.iskel.zip');
    expect((await fetch(`${server.address}/api/intake`, { method: 'POST', body: form })).status).toBeLessThan(300);
    const { runs } = (await json<{ runs: { id: string; name: string }[] }>('GET', `${server.address}/api/runs`)).body;
    const run = runs.find(({ name }) => name === 'somebody else')!;
    const { attempts } = (
      await json<{ attempts: { id: string }[] }>('GET', `${server.address}/api/runs/${run.id}/attempts`)
    ).body;
    asked.length = 0;
    await page.goto(`${server.address}/attempts/${attempts[0]!.id}?side=structure`);
    const frame = page.frameLocator('iframe[title="The recorded page, inert"]');
    await frame.locator('h1').waitFor();
    await frame.locator('#link').dispatchEvent('click');
    await page.waitForTimeout(1500);
    expect(asked).toEqual([]);
    expect(
      await frame
        .locator(
          'script, form, iframe, object, embed, meta[http-equiv=refresh], [onload], [onerror], [onfocus], [src], [href]',
        )
        .count(),
    ).toBe(0);
  });
});
