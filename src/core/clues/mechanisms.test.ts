import { describe, expect, it } from 'vitest';
import { sketchOf, type Sketch } from '../contrast/sketch.ts';
import type { BodyEvent, EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { check, css, element, exchange, facts, page, press, reads, step, url } from '../evidence/samples.ts';
import type { Clue } from './clue.ts';
import type { ClueCode } from './codes.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';
import { isListInOtherOrder } from './list-in-other-order.ts';

/** What must have happened for a cause to be one: each chain on the smallest evidence, and on what only looks like it. */

let count = 0;
const passed = (events: EvidenceEvent[]): Sketch =>
  sketchOf(prepare(events, facts('passed', '')), { id: `p${++count}`, startedAt: 0 });
const clue = (code: ClueCode, events: EvidenceEvent[], message: string, passing: Sketch[] = []): Clue | undefined =>
  findClues(sceneOf(events, facts('failed', message), { id: 'f', startedAt: 0, passing })).find(
    (one) => one.code === code,
  );
const differs = (expected: string, actual: string): string => `value: expected '${expected}' but got '${actual}'`;
const open = (at = 0): EvidenceEvent =>
  step(at, at + 20, { action: 'open', command: 'navigate to', input: `${url}/seats` });
const body = (exchangeId: string, mime: string, text: string): BodyEvent => ({
  id: `b${++count}`,
  lane: 'body',
  kind: 'body',
  at: 60,
  clock: 'browser',
  data: { exchange: exchangeId, of: 'response', mime, text, length: text.length },
});

describe('typed text that was lost', () => {
  const typed = (value: string | undefined, pressedAt: number): EvidenceEvent[] => [
    open(),
    element(30, 'appeared', 'css=#name', { node: 1, attrs: { value: 'Ada' } }),
    step(50, 60, { action: 'type', command: 'element send keys', locator: css('#name'), input: 'Adalet' }),
    page(58, 'held-value', { label: 'input', text: 'Adalet' }),
    element(200, 'replaced', 'css=#name', { node: 2, attrs: value === undefined ? {} : { value } }),
    press(pressedAt, '#keep'),
    reads(400, 'Kept for Ada'),
  ];

  it('was in a field that was drawn anew before the test went on', () => {
    const found = clue('typed-not-held', typed('Ada', 300), differs('Kept for Adalet', 'Kept for Ada'));
    expect(found?.summary).toContain('then held “Ada”');
    for (const kept of [typed('Adalet', 300), typed(undefined, 300), typed('Ada', 120)])
      expect(clue('typed-not-held', kept, differs('Kept for Adalet', 'Kept for Ada'))).toBeUndefined();
  });

  it('went into another field, which had taken the focus by itself', () => {
    const keys = [...'bay'].map((value) => `{"value":"${value}","type":"keyDown"}`).join(',');
    const byKeys = (field: string, tab = false): EvidenceEvent[] => [
      open(),
      press(50, '#find'),
      page(55, 'press', { label: 'input “Find”' }),
      ...(tab ? [step(80, 90, { action: 'keys', command: 'perform actions', input: '{}' })] : []),
      step(100, 130, { action: 'keys', command: 'perform actions', input: `{"actions":[{"actions":[${keys}]}]}` }),
      page(120, 'held-value', { label: field, text: 'bay' }),
      reads(200, ''),
    ];
    const found = clue('typed-not-held', byKeys('input “Write to us”'), differs('bay', ''));
    expect(found?.summary).toBe('“bay” went into input “Write to us”; the test had pressed input “Find”');
    expect(clue('typed-not-held', byKeys('input “Find”'), differs('bay', ''))).toBeUndefined();
    expect(clue('typed-not-held', byKeys('input “Write to us”', true), differs('bay', ''))).toBeUndefined();
  });
});

describe('a press by pointer at a place that a script had measured', () => {
  const pointed = (reached: string, shifts: boolean): EvidenceEvent[] => [
    open(),
    step(50, 60, { action: 'script', command: 'execute script', input: 'where', result: { x: 40, y: 300 } }),
    ...(shifts ? [page(200, 'layout-shift', {})] : []),
    step(70, 400, { action: 'keys', command: 'perform actions', input: '{"type":"pointerDown"}' }),
    page(390, 'press', { x: 40, y: 300, label: `button “${reached}”` }),
    reads(500, reached),
    check(510, reached === 'Deck', 'Deck', reached),
  ];
  const passing = [passed(pointed('Deck', false)), passed(pointed('Deck', true))];

  it('reached another thing than in passing attempts, and the page had shifted meanwhile', () => {
    const message = differs('Deck', 'Cabin');
    expect(clue('press-reached-other', pointed('Cabin', false), message, passing)?.summary).toContain(
      'reached button “Cabin”, in 2 of 2 passing attempts button “Deck”',
    );
    expect(clue('target-moved', pointed('Cabin', true), message, passing)?.summary).toContain('the page shifted');
    expect(clue('target-moved', pointed('Cabin', false), message, passing)).toBeUndefined();
    expect(clue('press-reached-other', pointed('Deck', true), message, passing)).toBeUndefined();
  });
});

describe('a view on its way', () => {
  const link = { node: 1, tag: 'a', text: 'Next', attrs: { href: '/seats?page=2' } };
  const paged = (answeredAt: number, href = link.attrs.href): EvidenceEvent[] => [
    open(),
    element(25, 'appeared', 'css=#next', { ...link, attrs: { href } }),
    element(25, 'appeared', 'css=.seat', { node: 2, text: '1A' }),
    press(200, '#next'),
    page(205, 'press', { label: 'a “Next”' }),
    exchange(210, answeredAt, { url: `${url}/api/seats?page=2` }),
    press(500, '.seat'),
    reads(900, '1A', 'h1'),
  ];
  const passing = [passed(paged(240)), passed(paged(250))];

  it('is what a link leads to, for what is done to the old one meanwhile', () => {
    const found = clue('view-on-the-way', paged(1500), differs('9A', '1A'), passing);
    expect(found?.summary).toContain('led to /seats?page=2 and before GET /api/seats had brought its view');
    expect(clue('view-on-the-way', paged(250), differs('9A', '1A'), passing)).toBeUndefined();
    expect(clue('view-on-the-way', paged(1500, '#more'), differs('9A', '1A'), passing)).toBeUndefined();
    // Passing attempts did not wait for it either.
    expect(clue('view-on-the-way', paged(1500), differs('9A', '1A'), [passed(paged(1400))])).toBeUndefined();
  });

  it('is not on its way where the page shows what it had kept of it', () => {
    const back = (shown: boolean): EvidenceEvent[] => [
      open(),
      press(150, '#back'),
      page(160, 'fragment', { address: `${url}/seats/4` }),
      exchange(162, 900, { url: `${url}/api/seats/4` }),
      element(shown ? 161 : 20, 'appeared', 'css=#out', { node: 7, text: '5 free' }),
      reads(300, '5 free'),
    ];
    expect(clue('view-on-the-way', back(false), differs('4 free', '5 free'))).toBeDefined();
    expect(clue('view-on-the-way', back(true), differs('4 free', '5 free'))).toBeUndefined();
  });
});

it('what was asked by a page that the test left is not what it waited for', () => {
  const limit = 'timed out after 1000 ms waiting for #out';
  const waited = (askedAt: number): EvidenceEvent[] => [
    exchange(askedAt, 2000, { url: `${url}/api/sign-in`, method: 'POST', context: 'w' }),
    page(120, 'navigation-committed', { context: 'w', address: `${url}/mine` }),
    ...Array.from({ length: 11 }, (_, i) => reads(200 + i * 100, '')),
  ];
  expect(clue('wait-ended-under-way', waited(150), limit)).toBeDefined();
  expect(clue('wait-ended-under-way', waited(50), limit)).toBeUndefined();
});

describe('what no attempt is known to pass', () => {
  const list = 'Bow, Mast, Keel';
  it('expects what was read before the act, in another order', () => {
    const ordered = (names: string[]): EvidenceEvent[] => [
      open(),
      ...names.map((name, i) => reads(30 + i * 10, name, '.name')),
      press(100),
      reads(200, 'Mast, Bow, Keel'),
    ];
    const message = differs(list, 'Mast, Bow, Keel');
    expect(clue('list-in-other-order', ordered(['Keel', 'Bow', 'Mast']), message)?.strength).toBe(0.9);
    expect(clue('list-in-other-order', ordered(['Keel', 'Bow']), message)).toBeUndefined();
    expect(clue('wording-differs', ordered(['Keel', 'Bow', 'Mast']), message)).toBeUndefined();
    expect(isListInOtherOrder(list, 'Keel, Mast, Bow')).toBe(true);
    expect(isListInOtherOrder(list, list)).toBe(false);
    expect(isListInOtherOrder('Osman, Ada', 'Ada, Osman')).toBe(false);
  });

  it('expects numbers in order, and found them ordered as text', () => {
    const found = (expected: string, actual: string): Clue | undefined =>
      clue('list-in-other-order', [open(), reads(50, actual)], differs(expected, actual));
    expect(found('3.5 10.25 22', '10.25 22 3.5')?.summary).toContain('ordered as text');
    expect(found('3.5 10.25 22', '22 10.25 3.5')?.strength).toBe(0.9);
    expect(found('22 3.5 10.25', '10.25 22 3.5')).toBeUndefined();
  });

  it('is stated by an answer, in a field called by a word of the sentence', () => {
    const answered = (json: string): EvidenceEvent[] => {
      const request = exchange(30, 50, { url: `${url}/api/tariff` });
      return [open(), request, body(request.id, 'application/json', json), reads(100, 'Valid for 7 days')];
    };
    const message = differs('Valid for 14 days', 'Valid for 7 days');
    expect(clue('stated-by-page', answered('{"id":7,"validDays":7}'), message)?.summary).toContain('validDays is 7');
    expect(clue('stated-by-page', answered('{"id":7,"days":14}'), message)).toBeUndefined();
    expect(clue('stated-by-page', answered('{"id":7,"deck":7}'), message)).toBeUndefined();
  });
});

it('a number drawn anew for every attempt lies beyond those that pass', () => {
  const chosen = (days: number): EvidenceEvent[] => [
    open(),
    reads(50, String(days), '#days'),
    check(60, true, String(days), String(days)),
    reads(100, days > 7 ? 'Too long' : 'Booked'),
  ];
  const passing = [2, 5, 3].map((days) => passed(chosen(days)));
  const message = differs('Booked', 'Too long');
  expect(clue('odd-input', chosen(9), message, passing)?.summary).toContain('beyond the 2 to 5');
  expect(clue('odd-input', chosen(4), message, passing)).toBeUndefined();
  // The same number every time is not drawn.
  expect(clue('odd-input', chosen(9), message, [passed(chosen(3)), passed(chosen(3))])).toBeUndefined();
});

it('the first of as many was another one than always, and the failed check shows it', () => {
  const taken = (first: string): EvidenceEvent[] => [
    open(),
    element(30, 'appeared', 'css=.card', { node: 1, count: 9, text: first }),
    press(50, '.card'),
    reads(100, first, 'h1'),
  ];
  const passing = [passed(taken('Bow')), passed(taken('Bow'))];
  expect(clue('other-of-several', taken('Keel'), differs('Bow', 'Keel'), passing)?.summary).toContain(
    'the first read “Keel”, in 2 of 2 passing attempts “Bow”',
  );
  expect(
    clue('other-of-several', taken('Keel'), differs('Bow', 'Keel'), [passed(taken('Bow')), passed(taken('Mast'))]),
  ).toBeUndefined();
});

it('what a page asks all day long is not what a wait waits for', () => {
  const asked = (path: string, every: number): EvidenceEvent[] =>
    Array.from({ length: Math.floor(1200 / every) }, (_, i) =>
      exchange(40 + i * every, 60 + i * every, { url: `${url}${path}` }),
    );
  const events = [
    open(),
    ...asked('/api/clock', 300),
    ...asked('/api/work', 200),
    ...Array.from({ length: 11 }, (_, i) => reads(200 + i * 100, '')),
  ];
  // Passing attempts had what they wanted while the clock's answer was still to come.
  const passing = [1, 2].map(() =>
    passed([
      open(),
      exchange(40, 60, { url: `${url}/api/work` }),
      exchange(40, 900, { url: `${url}/api/clock` }),
      reads(200, 'done'),
    ]),
  );
  const found = clue('page-kept-asking', events, 'timed out after 1000 ms waiting for #out', passing);
  expect(found?.summary).toContain('GET /api/work');
});

it('a press just before an answer may be so by chance', () => {
  const pressed = (answeredAt: number): EvidenceEvent[] => [
    open(),
    exchange(30, answeredAt, { url: `${url}/api/news` }),
    press(200),
    reads(900, 'x'),
  ];
  const passing = [passed(pressed(150)), passed(pressed(160)), passed(pressed(140))];
  const strength = (answeredAt: number): number =>
    clue('acted-while-under-way', pressed(answeredAt), differs('y', 'x'), passing)?.strength ?? 0;
  expect(strength(700)).toBeGreaterThan(0.9);
  expect(strength(230)).toBeLessThan(0.4);
});

it('a link that the service did not serve is no matter of this attempt', () => {
  const diary = (html: string, found: boolean): EvidenceEvent[] => {
    const served = exchange(5, 15, { url: `${url}/diary`, type: 'document' });
    return [
      open(),
      served,
      body(served.id, 'text/html', html),
      step(100, 110, {
        action: 'find',
        command: 'find element',
        locator: { using: 'link text', value: 'Morning boat' },
        ...(found ? {} : { error: { code: 'no such element', message: 'no such element' } }),
      }),
    ];
  };
  const there = '<p>Take <a href="/m">Morning boat</a></p>';
  const passing = [passed(diary(there, true)), passed(diary(there, true))];
  const gone = clue('served-without', diary('<td>Morning boat, full</td>', false), 'no such element', passing);
  expect(gone?.summary).toBe(
    'The page was served without a link “Morning boat”; it says “Morning boat, full”; in 2 of 2 passing attempts it was found there',
  );
  expect(clue('served-without', diary(there, false), 'no such element', passing)).toBeUndefined();
  expect(clue('served-without', diary('<p>Nothing</p>', false), 'no such element', [])).toBeUndefined();
});

it('what was read before stood in another order', () => {
  const cards = (first: string, second: string): EvidenceEvent[] => [
    open(),
    reads(50, `${first} for the way, 4 kr\n${second} for the way, 5 kr`, '.cards'),
    element(30, 'appeared', 'css=.cards button', { node: 1, count: 2, text: 'Take it' }),
    press(100, '.cards button'),
    reads(200, `${first} taken`, 'h1'),
  ];
  const passing = [passed(cards('A warm blanket', 'A deck chair')), passed(cards('A warm blanket', 'A deck chair'))];
  const message = differs('A warm blanket taken', 'A deck chair taken');
  expect(clue('other-of-several', cards('A deck chair', 'A warm blanket'), message, passing)?.summary).toContain(
    'they stood in another order: “A deck chair…” came first',
  );
  expect(clue('other-of-several', cards('A warm blanket', 'A deck chair'), message, passing)).toBeUndefined();
});
