import { describe, expect, it } from 'vitest';
import type { EvidenceEvent, WindowEvent } from '../evidence/event.ts';
import { css, element, exchange, facts, page, press, stale, step, url, windowEvent } from '../evidence/samples.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';

/** Clues that one attempt shows by itself, each on the smallest evidence for it and on one that must not show it. */

let count = 0;
const windowTold = (at: number, kind: WindowEvent['kind'], context: string, text?: string): EvidenceEvent =>
  windowEvent(at, kind, { context, ...(text ? { text } : {}) });
const thrown = (at: number, text: string): EvidenceEvent => ({
  id: `c${++count}`,
  lane: 'console',
  kind: 'exception',
  at,
  clock: 'browser',
  data: { level: 'error', text, uncaught: true },
});
const find = (at: number, locator: string, error?: string): EvidenceEvent =>
  step(at, at + 5, {
    action: 'find',
    command: 'find element',
    locator: css(locator),
    ...(error ? { error: { code: error, message: error } } : {}),
  });
const read = (at: number, locator: string, result: string): EvidenceEvent =>
  step(at, at + 6, { action: 'read', command: 'get text', subject: 'text', locator: css(locator), result });
const type = (at: number, locator: string, input: string): EvidenceEvent =>
  step(at, at + 10, { action: 'type', command: 'element send keys', locator: css(locator), input });
/** A wait that polls a text until its limit. */
const wait = (from: number, until: number, locator = '#out'): EvidenceEvent[] =>
  Array.from({ length: Math.floor((until - from) / 100) + 1 }, (_, i) => read(from + i * 100, locator, ''));

const staleReads = (from: number, tries: number): EvidenceEvent[] =>
  Array.from({ length: tries }, (_, i) =>
    step(from + i * 100, from + i * 100 + 6, {
      action: 'read',
      command: 'get text',
      subject: 'text',
      locator: css('#out'),
      element: 'e1',
      error: stale,
    }),
  );

const missing = 'no such element';
const differs = (expected: string, actual: string): string => `value: expected "${expected}" but got "${actual}"`;
const limit = 'timed out after 1000 ms waiting for #out';
const told = (events: EvidenceEvent[], message: string, outcome: 'failed' | 'passed' = 'failed') =>
  findClues(sceneOf(events, facts(outcome, message)));

const rows: [code: string, message: string, shows: EvidenceEvent[], not: EvidenceEvent[]][] = [
  [
    'acted-on-disabled',
    limit,
    [element(0, 'appeared', 'css=#go', { node: 1, enabled: false }), press(50, '#go'), ...wait(100, 1100)],
    [element(0, 'appeared', 'css=#go', { node: 1, enabled: true }), press(50, '#go'), ...wait(100, 1100)],
  ],
  [
    'acted-before-script',
    limit,
    [exchange(10, 800, { url: `${url}/shop.js`, type: 'script' }), press(50, '#go'), ...wait(100, 1100)],
    [exchange(10, 40, { url: `${url}/shop.js`, type: 'script' }), press(50, '#go'), ...wait(100, 1100)],
  ],
  [
    'polled-detached',
    limit,
    [
      element(0, 'appeared', 'css=#out', { node: 1 }),
      find(10, '#out'),
      element(60, 'replaced', 'css=#out', { node: 2 }),
      ...staleReads(100, 5),
    ],
    // What was taken away was not replaced: there was nothing else to ask.
    [
      element(0, 'appeared', 'css=#out', { node: 1 }),
      find(10, '#out'),
      element(60, 'removed', 'css=#out', { node: null }),
      ...staleReads(100, 5),
    ],
  ],
  [
    'picture-broken',
    differs('3', '2'),
    [exchange(10, 40, { url: `${url}/map.png`, type: 'image', status: 404 }), read(100, '#out', '2')],
    [exchange(10, 40, { url: `${url}/map.png`, type: 'image' }), read(100, '#out', '2')],
  ],
  [
    'changed-to-expected',
    differs('412', '0'),
    [
      element(0, 'appeared', 'css=#fare', { node: 1, text: '0' }),
      read(50, '#fare', '0'),
      element(300, 'changed', 'css=#fare', { node: 1, text: '412' }),
    ],
    [
      element(0, 'appeared', 'css=#fare', { node: 1, text: '0' }),
      read(50, '#fare', '0'),
      element(300, 'changed', 'css=#fare', { node: 1, text: '999' }),
    ],
  ],
  [
    'page-on-the-way',
    differs('Trips', 'Profile'),
    [press(50, '#save'), read(200, 'h1', 'Profile'), page(400, 'navigation-committed', { address: `${url}/trips` })],
    [press(50, '#save'), page(90, 'navigation-committed', { address: `${url}/trips` }), read(200, 'h1', 'Profile')],
  ],
  [
    'view-on-the-way',
    differs('Receipt', 'Basket'),
    [
      press(50, '#pay'),
      page(65, 'fragment', { address: `${url}/basket#receipt` }),
      exchange(70, 900, { url: `${url}/views/receipt` }),
      read(200, 'h1', 'Basket'),
    ],
    [press(50, '#pay'), exchange(70, 900, { url: `${url}/views/receipt` }), read(200, 'h1', 'Basket')],
  ],
  [
    'wait-ended-under-way',
    limit,
    [exchange(20, 1600, { url: `${url}/quote` }), ...wait(100, 1100)],
    [exchange(20, 300, { url: `${url}/quote` }), ...wait(100, 1100)],
  ],
  [
    'page-kept-asking',
    limit,
    [...[100, 300, 500, 700, 900, 1050].map((at) => exchange(at, at + 20, { url: `${url}/job` })), ...wait(100, 1100)],
    [exchange(100, 120, { url: `${url}/job` }), ...wait(100, 1100)],
  ],
  [
    'came-after-limit',
    limit,
    [
      element(0, 'appeared', 'css=#out', { node: 1, text: '' }),
      ...wait(100, 1100),
      element(1500, 'changed', 'css=#out', { node: 1, text: 'done' }),
    ],
    [element(0, 'appeared', 'css=#out', { node: 1, text: '' }), ...wait(100, 1100)],
  ],
  [
    'several-match',
    differs('a', 'b'),
    [element(0, 'appeared', 'css=.offer', { node: 1, count: 3 }), press(50, '.offer'), read(90, 'h1', 'b')],
    [element(0, 'appeared', 'css=.offer', { node: 1, count: 1 }), press(50, '.offer'), read(90, 'h1', 'b')],
  ],
  [
    'target-hidden',
    'element not interactable',
    [
      element(0, 'appeared', 'css=#fleet', { node: 1, visible: false }),
      step(50, 60, {
        action: 'press',
        command: 'element click',
        locator: css('#fleet'),
        error: { code: 'element not interactable', message: 'element not interactable' },
      }),
    ],
    [
      element(0, 'appeared', 'css=#fleet', { node: 1, visible: true }),
      step(50, 60, {
        action: 'press',
        command: 'element click',
        locator: css('#fleet'),
        error: { code: 'element not interactable', message: 'element not interactable' },
      }),
    ],
  ],
  [
    'found-elsewhere',
    missing,
    [
      windowTold(0, 'opened', 'top'),
      find(50, '#card', missing),
      element(60, 'appeared', 'css=#card', { node: 1 }, { context: 'frame' }),
    ],
    [
      windowTold(0, 'opened', 'top'),
      find(50, '#card', missing),
      element(60, 'absent', 'css=#card', { node: null }, { context: 'frame' }),
    ],
  ],
  [
    'window-unlooked',
    missing,
    [windowTold(0, 'opened', 'one'), windowTold(30, 'opened', 'two'), find(50, '#scale', missing)],
    [windowTold(0, 'opened', 'one'), find(50, '#scale', missing)],
  ],
  [
    'dialog-in-the-way',
    'unexpected alert open: {Alert text : Sure?}',
    [
      windowTold(30, 'dialog-opened', 'one', 'Sure?'),
      step(50, 60, {
        action: 'read',
        locator: css('h1'),
        error: { code: 'unexpected alert open', message: 'unexpected alert open' },
      }),
    ],
    [],
  ],
  [
    'typed-not-held',
    differs('We call 5550114477', 'We call 5550'),
    [
      type(50, '#phone', '5550114477'),
      page(60, 'held-value', { label: 'input#phone', text: '5550114477' }),
      page(200, 'held-value', { label: 'input#phone', text: '5550' }),
      read(300, '#said', 'We call 5550'),
    ],
    [
      type(50, '#phone', '5550114477'),
      page(60, 'held-value', { label: 'input#phone', text: '555 011 44 77' }),
      page(200, 'held-value', { label: 'input#meal', text: 'ticked' }),
      read(300, '#said', 'x'),
    ],
  ],
  [
    'typed-not-held',
    differs('Kuzu Island', 'Lodos Harbour'),
    [
      type(50, '#to', 'Kuzu'),
      page(60, 'held-value', { label: 'input#to', text: 'Kuzu' }),
      element(70, 'appeared', 'css=#go', { node: 1, text: 'Search' }),
      press(100),
      page(200, 'held-value', { label: 'input#to', text: 'Lodos Harbour' }),
      read(300, '#said', 'Lodos Harbour'),
    ],
    // What the test pressed itself is chosen, not lost.
    [
      type(50, '#to', 'Kuzu'),
      page(60, 'held-value', { label: 'input#to', text: 'Kuzu' }),
      element(70, 'appeared', 'css=#go', { node: 1, text: 'Lodos Harbour' }),
      press(100),
      page(200, 'held-value', { label: 'input#to', text: 'Lodos Harbour' }),
      read(300, '#said', 'Lodos Harbour'),
    ],
  ],
  [
    'error-swallowed',
    differs('436', '412'),
    [find(50, '#bag', missing), press(100, '#pay'), read(150, '#paid', '412')],
    [find(50, '#bag'), press(100, '#pay'), read(150, '#paid', '412')],
  ],
  [
    'conflict-told',
    differs('Seat 2A is yours', 'Seat 2A is already held'),
    [read(50, '#told', 'Seat 2A is already held')],
    [],
  ],
  [
    'own-request-failed',
    limit,
    [exchange(20, 60, { url: `${url}/tariff`, status: 503 }), ...wait(100, 1100)],
    [exchange(20, 60, { url: `${url}/tariff`, status: 404 }), ...wait(100, 1100)],
  ],
  [
    'outside-failed',
    limit,
    [
      exchange(20, 60, { url: 'http://weather.test/sea', own: false, host: 'weather.test', status: 503 }),
      ...wait(100, 1100),
    ],
    [
      exchange(20, 60, { url: 'http://weather.test/sea', own: false, host: 'weather.test', status: 200 }),
      ...wait(100, 1100),
    ],
  ],
  [
    'exception-thrown',
    limit,
    [thrown(60, 'TypeError: seasons.winter is not there'), ...wait(100, 1100)],
    wait(100, 1100),
  ],
  ['placeholder-read', differs('120', '0'), [read(50, '#points', '0')], []],
  [
    'settled-at-check',
    differs('442', '412'),
    [element(0, 'appeared', 'css=#sum', { node: 1, text: '412' }), read(300, '#sum', '412')],
    [
      element(0, 'appeared', 'css=#sum', { node: 1, text: '412' }),
      exchange(100, 600, { url: `${url}/sum` }),
      read(300, '#sum', '412'),
    ],
  ],
  [
    'commands-slow',
    limit,
    Array.from({ length: 8 }, (_, i) =>
      step(i * 300, i * 300 + 140, {
        action: 'read',
        command: 'get text',
        locator: css(`#n${i}`),
        result: 'x',
      }),
    ),
    Array.from({ length: 8 }, (_, i) =>
      step(i * 300, i * 300 + 12, { action: 'read', command: 'get text', locator: css(`#n${i}`), result: 'x' }),
    ),
  ],
  ['generated-locator', missing, [find(50, '#fare-3f9a2c', missing)], [find(50, '#fare', missing)]],
];

describe('clues of one attempt', () => {
  it.each(rows)('%s', (code, message, shows, not) => {
    const clue = told(shows, message).find((one) => one.code === code);
    expect(clue).toBeDefined();
    expect(clue!.strength).toBeGreaterThan(0);
    expect(clue!.strength).toBeLessThanOrEqual(1);
    expect(clue!.summary).not.toMatch(/undefined|NaN|\[object/);
    // Every clue opens its evidence: events that are there.
    const known = new Set(shows.map(({ id }) => id));
    for (const id of clue!.evidence) expect(known.has(id) || id.startsWith('w:') || id.startsWith('p:')).toBe(true);
    if (not.length) expect(told(not, message).map((one) => one.code)).not.toContain(code);
  });

  it('a target that moved between being measured and being pressed by coordinates', () => {
    const box = (y: number) => ({ x: 18, y, width: 80, height: 38 });
    const events = (moved: boolean): EvidenceEvent[] => [
      element(0, 'appeared', 'css=#lorry', { node: 1, box: box(200) }),
      step(20, 30, {
        action: 'read',
        command: 'get element rect',
        subject: 'rect',
        locator: css('#lorry'),
        result: '{}',
      }),
      ...(moved ? [element(300, 'moved', 'css=#lorry', { node: 1, box: box(244) })] : []),
      step(600, 620, { action: 'keys', command: 'perform actions', input: '{"actions":[{"type":"pointerDown"}]}' }),
      page(610, 'press', { x: 58, y: 219, label: 'button “Lorry 2”' }),
      read(700, '#taken', 'Lorry 2'),
    ];
    expect(
      told(events(true), differs('Lorry 3', 'Lorry 2')).find(({ code }) => code === 'target-moved')!.summary,
    ).toContain('44 pixels');
    expect(told(events(false), differs('Lorry 3', 'Lorry 2')).map(({ code }) => code)).not.toContain('target-moved');
  });

  it('says nothing where there is no evidence at all', () => {
    expect(told([], 'it failed')).toEqual([]);
    expect(told([], '', 'passed')).toEqual([]);
  });
});

it('tells a screen on which nothing was, as whoever looked at it found it', () => {
  const events = [read(50, '#out', '2')];
  const blank = (kind: 'blank' | 'loading' | 'broken-off', before: EvidenceEvent[] = []): string[] =>
    findClues(
      sceneOf([...before, ...events], facts('failed', differs('3', '2')), {
        id: 'f',
        startedAt: 0,
        passing: [],
        look: { event: 'shot', at: 40, findings: [{ kind, words: 'so' }] },
      }),
    ).flatMap(({ code, evidence }) => (code === 'screen-blank' ? evidence : []));
  expect(blank('blank')).toEqual(['shot', events[0]!.id]);
  expect(blank('loading')).toHaveLength(2);
  expect(blank('broken-off')).toEqual([]);
  // The picture is older than what the test read.
  expect(blank('blank', [read(20, 'h1', 'Fares')])).toEqual([]);
  const left = step(30, 40, { action: 'open', command: 'navigate to', input: url });
  expect(blank('blank', [read(20, 'h1', 'Fares'), left])).toHaveLength(2);
});
