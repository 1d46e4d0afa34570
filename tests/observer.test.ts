import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { openBrowser } from './helpers.ts';
import { observerSource, type ObserverRecord } from '../src/browser/observer/source.ts';

/** The in-page observer in a real page: what it tells of what really happened, and that it changes nothing. */
let browser: Browser;
let page: Page;

beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());

const html = `<style>body{margin:0}#box{position:absolute;left:10px;top:20px;width:100px;height:40px}#lid{position:absolute;left:0;top:300px;width:300px;height:200px}</style>
<button id="box" data-n="1">Hold seat</button><div id="lid" class="lid top">Storm</div>
<ul id="list"><li>one</li><li>two</li></ul><a href="#x">Go to <b>checkout</b></a>
<label for="name">Passenger</label><input id="name"><input id="code" type="password"><input id="tick" type="checkbox">`;

beforeEach(async () => {
  page = await browser.newPage({ viewport: { width: 800, height: 600 } });
  await page.setContent(html);
  await page.evaluate(`(${observerSource})()`);
  await page.evaluate(() => {
    const w = window as unknown as {
      told: string[];
      iskelObserver: { attach: (channel: (text: string) => void, locators: string) => void };
    };
    w.told = [];
    w.iskelObserver.attach((text) => w.told.push(text), '[]');
  });
  return () => page.close();
});

const watch = (value: string, more: object = {}): Promise<void> =>
  page.evaluate(
    (text) => (window as unknown as { iskelObserver: { watch: (text: string) => void } }).iskelObserver.watch(text),
    JSON.stringify({ key: value, locator: { using: 'css selector', value, ...more } }),
  );
async function told(): Promise<ObserverRecord[]> {
  await page.waitForTimeout(150);
  const batches = await page.evaluate(() => {
    const w = window as unknown as { told: string[]; iskelObserver: { flush: () => void } };
    w.iskelObserver.flush();
    return w.told;
  });
  return batches.flatMap((text) => JSON.parse(text) as ObserverRecord[]);
}
type ElementRecord = Extract<ObserverRecord, { k: 'element' }>;
const story = async (key: string): Promise<ElementRecord[]> =>
  (await told()).filter((record): record is ElementRecord => record.k === 'element' && record.l === key);
const run = (script: string): Promise<unknown> => page.evaluate(script);

describe('lifelines', () => {
  it('begin with what is there: name, text, attributes, box, visible and uncovered', async () => {
    await watch('#box');
    const [first] = await story('#box');
    expect(first).toMatchObject({
      e: 'appeared',
      s: {
        count: 1,
        tag: 'button',
        name: 'Hold seat',
        text: 'Hold seat',
        attrs: { id: 'box', 'data-n': '1' },
        box: { x: 10, y: 20, width: 100, height: 40 },
        visible: true,
        enabled: true,
        inView: true,
        coveredBy: null,
      },
    });
  });

  it('or with nothing there, until it appears', async () => {
    await watch('#late');
    await run(`setTimeout(() => document.body.insertAdjacentHTML('beforeend', '<p id="late">here</p>'), 30)`);
    expect((await story('#late')).map((record) => record.e)).toEqual(['absent', 'appeared']);
  });

  it('tell a replacement from a change', async () => {
    await watch('#box');
    await run(`document.getElementById('box').dataset.n = '2'`);
    await page.waitForTimeout(60);
    await run(`document.getElementById('box').outerHTML = '<button id="box" data-n="3">Hold seat</button>'`);
    const records = await story('#box');
    expect(records.map((record) => record.e)).toEqual(['appeared', 'changed', 'replaced']);
    expect(records[1]!.c).toEqual(['data-n']);
    expect(records[1]!.s.node).toBe(records[0]!.s.node);
    expect(records[2]!.s.node).not.toBe(records[0]!.s.node);
  });

  it('tell a removal and a return of the same node', async () => {
    await watch('#box');
    await run(
      `window.kept = document.getElementById('box'); kept.remove(); setTimeout(() => document.body.append(kept), 60)`,
    );
    const records = await story('#box');
    expect(records.map((record) => record.e)).toEqual(['appeared', 'removed', 'appeared']);
    expect(records[2]!.s.node).toBe(records[0]!.s.node);
  });

  it('carry the page’s own time of a change to the millisecond', async () => {
    await watch('#box');
    await page.waitForTimeout(80);
    const at = (await run(
      `new Promise((done) => setTimeout(() => { document.getElementById('box').remove(); done(performance.timeOrigin + performance.now()) }, 40))`,
    )) as number;
    const removed = (await story('#box')).find((record) => record.e === 'removed')!;
    expect(Math.abs(removed.t - at)).toBeLessThan(5);
  });

  it('tell when something lies over it, what, and when it is free again', async () => {
    await watch('#box');
    await page.waitForTimeout(200);
    await run(`document.getElementById('lid').style.top = '0px'`);
    await page.waitForTimeout(120);
    await run(`document.getElementById('lid').style.top = '300px'`);
    const records = await story('#box');
    expect(records.map((record) => record.e)).toEqual(['appeared', 'covered', 'uncovered']);
    expect(records[1]!.s.coveredBy).toBe('div#lid.lid.top');
  });

  it('follow it while it moves, also by animation', async () => {
    await watch('#box');
    // Long after anything else has changed on the page.
    await page.waitForTimeout(400);
    await run(
      `document.getElementById('box').animate([{ transform: 'none' }, { transform: 'translateX(200px)' }], { duration: 1500, fill: 'forwards' })`,
    );
    await page.waitForTimeout(1700);
    const moved = (await story('#box')).filter((record) => record.e === 'moved');
    expect(moved.length).toBeGreaterThan(3);
    expect((moved.at(-1)!.s.box as { x: number }).x).toBeGreaterThan(150);
  });

  it('tell that it is hidden, disabled, out of view', async () => {
    await watch('#box');
    await run(`document.getElementById('box').style.visibility = 'hidden'`);
    await page.waitForTimeout(60);
    await run(`Object.assign(document.getElementById('box'), { disabled: true }).style.cssText = 'top:2000px'`);
    const last = (await story('#box')).at(-1)!.s;
    expect(last).toMatchObject({ enabled: false, inView: false });
    expect((await story('#box')).some((record) => record.s.visible === false)).toBe(true);
  });

  it('count matches and follow the one that was taken', async () => {
    await watch('#list li', { index: 1 });
    await run(`document.getElementById('list').insertAdjacentHTML('afterbegin', '<li>zero</li>')`);
    const records = await story('#list li');
    expect(records.map((record) => [record.e, record.s.count, record.s.text])).toEqual([
      ['appeared', 2, 'two'],
      ['replaced', 3, 'one'],
    ]);
  });
});

describe('locators', () => {
  it.each([
    [{ using: 'xpath', value: '//ul/li[2]' }, 'two'],
    [{ using: 'tag name', value: 'li' }, 'one'],
    [{ using: 'link text', value: 'Go to checkout' }, 'Go to checkout'],
    [{ using: 'partial link text', value: 'check' }, 'Go to checkout'],
    [{ using: 'css selector', value: 'li', within: { using: 'css selector', value: '#list' } }, 'one'],
    [{ using: 'css selector', value: '##nonsense' }, undefined],
    [{ using: 'xpath', value: '//[' }, undefined],
  ])('%j', async (locator, text) => {
    await page.evaluate(
      (watched) =>
        (window as unknown as { iskelObserver: { watch: (text: string) => void } }).iskelObserver.watch(watched),
      JSON.stringify({ key: 'k', locator }),
    );
    expect((await story('k'))[0]!.s.text).toBe(text);
  });
});

describe('the page’s own events', () => {
  it('presses with their point and what was hit', async () => {
    await page.mouse.click(60, 40);
    expect((await told()).find((record) => record.k === 'press')).toMatchObject({
      x: 60,
      y: 40,
      d: 'button#box “Hold seat”',
      b: { x: 10, y: 20, width: 100, height: 40 },
    });
  });

  it('what fields hold, but never a password', async () => {
    await page.locator('#name').pressSequentially('Ada');
    await page.locator('#code').pressSequentially('made-up');
    await page.locator('#tick').check();
    const records = await told();
    const held = records.flatMap((record) => (record.k === 'held' ? [record.v] : []));
    expect(held).toContain('Ada');
    expect(held.at(-1)).toBe('ticked');
    // It is told to be learned, and stands in nothing that is kept.
    expect(records.filter(({ k }) => k === 'secret')).toMatchObject([{ v: 'made-up' }]);
    expect(JSON.stringify(records.filter(({ k }) => k !== 'secret'))).not.toContain('made-up');
    expect(held).toContain('«masked»');
  });

  it('focus, title, mutations and layout shifts', async () => {
    await run(
      `document.title = 'Ferry'; document.getElementById('name').focus(); document.body.insertAdjacentHTML('afterbegin', '<div style="height:200px"></div>')`,
    );
    const kinds = new Set((await told()).map((record) => record.k));
    for (const kind of ['title', 'focus', 'mutations', 'shift'] as const) expect(kinds).toContain(kind);
  });
});

it('leaves the page as it was: no attribute, no element, no global the page meets in its own world', async () => {
  const other = await browser.newPage();
  await other.setContent(html);
  const before = await other.content();
  await other.close();
  await watch('#box');
  await watch('#list li');
  await told();
  expect(await page.content()).toBe(before);
});

it('a page that changes all the time is watched without being held up', async () => {
  for (const css of ['#box', '#lid', '#list li', '#name', 'a']) await watch(css);
  const took = (await run(
    `(() => { const list = document.getElementById('list'); const begun = performance.now(); for (let i = 0; i < 3000; i++) list.append(document.createElement('li')); return performance.now() - begun; })()`,
  )) as number;
  expect((await story('#list li')).at(-1)!.s.count).toBe(3002);
  expect(took).toBeLessThan(500);
});
