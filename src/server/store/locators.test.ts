import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { css } from '../../core/evidence/samples.ts';
import { mostLocators } from './locators.ts';
import { Store } from './store.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-locators-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true });
});

const attempt = (title: string): string =>
  store.attempts.begin({
    runId: store.runs.named('nightly', 1),
    test: { suite: 's', title },
    environment: { browser: 'chromium', version: '156' },
    startedAt: 1_000_000,
  });
const keep = (id: string, usedAt: number, ...values: string[]): void =>
  store.locators.keep(store.attempts.get(id)!.test.id, values.map(css), usedAt);
const usedBefore = (id: string): string[] => store.locators.usedBefore(id).map(({ value }) => value);

it('gives a test’s next attempt what it used, in its order, and another test nothing', () => {
  keep(attempt('holds a seat'), 10, '#b', '#a');
  expect(usedBefore(attempt('holds a seat'))).toEqual(['#b', '#a']);
  expect(usedBefore(attempt('another'))).toEqual([]);
});

it('keeps what a longer attempt used when one ends early', () => {
  keep(attempt('t'), 10, '#a', '#b', '#c');
  keep(attempt('t'), 20, '#a');
  expect(usedBefore(attempt('t'))).toEqual(['#a', '#b', '#c']);
});

it('lets go of what was used longest ago: locators made of generated values do not gather', () => {
  for (let i = 0; i < 100; i++) keep(attempt('t'), i, '#fixed', `#seat-${i}`);
  const kept = usedBefore(attempt('t'));
  expect(kept).toHaveLength(mostLocators);
  expect(kept).toContain('#fixed');
  expect(kept).toContain('#seat-99');
  expect(kept).not.toContain('#seat-0');
});

it('is not changed by an older attempt that is analysed again', () => {
  keep(attempt('t'), 20, '#a', '#b');
  keep(attempt('t'), 10, '#b', '#a');
  expect(usedBefore(attempt('t'))).toEqual(['#a', '#b']);
});
