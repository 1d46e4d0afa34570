import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Browser, Page } from 'playwright-core';
import { openBrowser } from './helpers.ts';

/** The observer looks only at what a change may concern. It may look too often; this holds that it never looks too seldom. */

let browser: Browser;
let page: Page;
beforeAll(async () => {
  browser = await openBrowser();
  page = await browser.newPage();
});
afterAll(() => browser.close());

const source = readFileSync('src/browser/observer/nearness.js', 'utf8')
  .replace(/^(?:\/\/.*\n)+/, '')
  .trim()
  .replace(/;$/, '');

const locators = [
  '#a1',
  '.x',
  'li',
  'ul .y',
  'ul > li.x',
  '[data-n="2"]',
  'li:first-child',
  'li + li',
  '.x, .y',
  'p',
  '#a1 .y',
  'div [data-n]',
  ':not(.x)',
  'ul > .x .y',
  'button:enabled',
  'li:has(.y)',
].map((value) => ({ using: 'css selector', value }));

it('whatever changes in a page, what it concerns is looked at', async () => {
  const missed = await page.evaluate(
    async ({ source, locators }) => {
      const near = (
        new Function(`return ${source}`) as () => {
          plan: (locator: object) => object | null;
          any: (changes: MutationRecord[], line: object) => boolean;
          onlyText: (changes: MutationRecord[]) => boolean;
        }
      )();
      let seed = 20261128;
      const random = (n: number): number => {
        seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
        return Math.floor((seed / 2 ** 32) * n);
      };
      const pick = <T>(list: ArrayLike<T>): T => list[random(list.length)]!;
      const fresh = (): HTMLElement => {
        const el = document.createElement(pick(['div', 'ul', 'li', 'p', 'button', 'span']));
        if (random(3) === 0) el.className = pick(['x', 'y', 'x y']);
        if (random(4) === 0) el.id = pick(['a1', 'a2']);
        if (random(4) === 0) el.dataset.n = String(random(3));
        if (random(2)) el.textContent = `t${random(5)}`;
        return el;
      };
      const stateOf = (locator: { value: string }): string => {
        const found = document.querySelectorAll(locator.value);
        const el = found[0];
        if (!el) return `${found.length}`;
        const ids = window as unknown as { ids: WeakMap<Element, number>; next: number };
        if (!ids.ids) Object.assign(ids, { ids: new WeakMap(), next: 0 });
        if (!ids.ids.has(el)) ids.ids.set(el, ++ids.next);
        return `${found.length} ${ids.ids.get(el)} ${el.textContent} ${[...el.attributes].map((a) => `${a.name}=${a.value}`).join()}`;
      };
      const lines = locators.map((locator) => ({
        locator,
        plan: near.plan(locator),
        el: null as Element | null,
        state: '',
      }));
      const look = (line: (typeof lines)[number]): void => {
        line.el = document.querySelector(line.locator.value);
        line.state = stateOf(line.locator);
      };
      lines.forEach(look);
      const missed: string[] = [];
      let skipped = 0;
      let seen = 0;
      const watch = new MutationObserver((changes) => {
        seen++;
        for (const line of lines) {
          const looks = near.any(changes, line);
          if (!looks) skipped++;
          const now = stateOf(line.locator);
          if (!looks && now !== line.state)
            missed.push(
              `${line.locator.value}: ${line.state} → ${now} after ${changes.map((c) => `${c.type} ${c.attributeName ?? ''} on ${(c.target as Element).nodeName}`).join('; ')}`,
            );
          look(line);
        }
      });
      watch.observe(document, { subtree: true, childList: true, attributes: true, characterData: true });
      for (let i = 0; i < 4000; i++) {
        const all = document.body.getElementsByTagName('*');
        const at = all.length ? pick(all) : document.body;
        switch (random(all.length > 60 ? 8 : 6)) {
          case 0:
          case 1:
            at.append(fresh());
            break;
          case 2:
            at.before(fresh());
            break;
          case 3:
            at.setAttribute(
              pick(['class', 'id', 'data-n', 'style', 'disabled', 'title']),
              pick(['x', 'y', 'a1', '2', '']),
            );
            break;
          case 4:
            at.removeAttribute(pick(['class', 'id', 'data-n', 'disabled']));
            break;
          case 5:
            if (at.firstChild?.nodeType === 3) (at.firstChild as Text).data = `t${random(9)}`;
            else at.prepend(`s${random(5)}`);
            break;
          default:
            at.remove();
        }
        if (random(3)) await Promise.resolve();
      }
      await new Promise((done) => setTimeout(done, 20));
      return { missed: missed.slice(0, 5), share: skipped / (seen * lines.length), seen };
    },
    { source, locators },
  );
  expect(missed.missed).toEqual([]);
  expect(missed.seen).toBeGreaterThan(1000);
  // It does leave out what cannot be concerned.
  expect(missed.share).toBeGreaterThan(0.2);
});
