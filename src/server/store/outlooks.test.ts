import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { analyse } from '../../core/analyse.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { findWords } from '../../core/evidence/find-words.ts';
import { facts, missing, press, reads } from '../../core/evidence/samples.ts';
import { Store } from './store.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-outlooks-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true });
});
const everything = { kind: '', suite: '', words: '', green: false, from: 0, count: 50 };

/** A settled attempt of one test. @param locators it presses, one after the other */
function attempted(title: string, startedAt: number, locators: string[], failed = false, seriesId?: string): string {
  const runId = store.runs.named('nightly', startedAt);
  const id = store.attempts.begin({
    runId,
    test: { suite: 'fares', title },
    number: 1,
    environment: { browser: 'chromium', version: '156' },
    startedAt,
    seriesId,
  });
  const outcome = failed ? 'failed' : 'passed';
  store.attempts.outcome(id, outcome, failed ? missing.message : '', '');
  store.attempts.end(id, 500);
  const events: EvidenceEvent[] = [
    ...locators.map((locator, i) => press(30 * i, locator, failed && i === 0 ? { error: missing } : {})),
    reads(400, 'paid'),
  ];
  store.events.write(id, events);
  const analysis = analyse(events, facts(outcome, failed ? missing.message : ''), { id, startedAt, passing: [] });
  store.together(() => store.settle(id, analysis, findWords(events, '', '')));
  return id;
}
const madeUp = '.css-1x9ab7q';
const listed = (asked: Partial<typeof everything> = {}): string[] =>
  store.outlooks.list({ ...everything, ...asked }).tests.map(({ test }) => test.title);

it('lists tests by their passing attempts, the likeliest first, by kind, words and whether they failed', () => {
  attempted('pays', 1000, [madeUp, '#go']);
  attempted('pays', 2000, [madeUp, '#go']);
  attempted('refunds', 1500, ['#field-3']);
  attempted('refunds', 2500, ['#field-3'], true);
  attempted('quotes', 1200, ['#go']);
  const all = store.outlooks.list(everything);
  expect(all.tests.map(({ test, lately }) => [test.title, lately])).toEqual([
    ['pays', { ran: 2, failed: 0 }],
    ['refunds', { ran: 2, failed: 1 }],
  ]);
  expect(all).toMatchObject({ total: 2, looked: 3, suites: ['fares'] });
  expect(all.kinds).toEqual([
    { kind: 'made-up-locator', tests: 2, about: 'A locator is built on a generated value or on positions.' },
  ]);
  expect(all.tests[0]!.risks[0]).toMatchObject({ kind: 'made-up-locator', seen: 2, of: 2 });
  expect(listed({ green: true })).toEqual(['pays']);
  expect(listed({ words: 'REF' })).toEqual(['refunds']);
  expect(listed({ kind: 'fixed-sleep' })).toEqual([]);
  expect(listed({ suite: 'other' })).toEqual([]);
  expect(listed({ from: 1, count: 1 })).toEqual(['refunds']);
});

it('goes by the newest attempts, forgets what is mended or gone, and counts no trials and nothing that failed', () => {
  for (let i = 0; i < 12; i++) attempted('pays', 1000 + i, [madeUp]);
  const { test } = store.outlooks.list(everything).tests[0]!;
  expect(store.outlooks.of(test.id)).toMatchObject({ attempts: 12 });
  // Mended: with every attempt that passes without it, it is seen in fewer.
  let last = '';
  for (let i = 0; i < 6; i++) last = attempted('pays', 2000 + i, ['#go']);
  expect(store.outlooks.of(test.id)!.risks[0]).toMatchObject({ seen: 6, of: 12 });
  for (let i = 0; i < 6; i++) attempted('pays', 3000 + i, ['#go']);
  expect(store.outlooks.of(test.id)).toMatchObject({ score: 0, attempts: 12, risks: [] });
  expect(listed()).toEqual([]);

  expect(store.outlooks.ofAttempt(attempted('pays', 5000, [madeUp], true))).toEqual([]);
  expect(store.outlooks.ofAttempt(last)).toEqual([]);
});

it('an attempt that turns out to be of another test is told of there, and no longer where it was', () => {
  const id = attempted('unnamed', 1000, [madeUp]);
  const was = store.outlooks.list(everything).tests[0]!.test.id;
  const { test } = store.attempts.get(attempted('pays', 900, ['#go']))!;
  store.together(() => store.outlooks.put(id, test.id, 1000, store.outlooks.ofAttempt(id)));
  expect(store.outlooks.of(was)).toBeUndefined();
  expect(listed()).toEqual(['pays']);
});
