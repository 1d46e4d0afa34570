import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { sceneOf } from '../clues/scene.ts';
import { sketchOf, type Sketch } from '../contrast/sketch.ts';
import { element, exchange, facts, line, missing, page, press, reads, step, css, url } from '../evidence/samples.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { maskMark } from '../evidence/masking.ts';
import { prepare } from '../evidence/prepare.ts';
import { chances, listedFrom, outlookOf } from './outlook.ts';
import { risksOf } from './register.ts';
import { riskKinds, type Risk, type RiskKind } from './risk.ts';
import { chanceLate } from './slack.ts';
import { riskNames } from './words.ts';

/** Each risk on the smallest evidence that shows it, and on the same without it. */

const startedAt = Date.UTC(2026, 10, 20, 9);
let count = 0;
const passed = (events: EvidenceEvent[]): Sketch =>
  sketchOf(prepare(events, facts('passed')), { id: `p${++count}`, startedAt });
const risks = (events: EvidenceEvent[], passing: EvidenceEvent[][] = []): Risk[] =>
  risksOf(sceneOf(events, facts('passed'), { id: 'own', startedAt, passing: passing.map(passed) }));
const risk = (kind: RiskKind, events: EvidenceEvent[], passing: EvidenceEvent[][] = []): Risk | undefined =>
  risks(events, passing).find((one) => one.kind === kind);

const open = (): EvidenceEvent => step(0, 20, { action: 'open', command: 'navigate to', input: `${url}/hold` });
/** A quick client: what it sends comes within a few ms, so that a gap is a sleep. */
const quick = (from: number, locator = '#out'): EvidenceEvent[] =>
  [0, 1, 2, 3].map((i) => reads(from + 10 * i, `part ${i}`, `${locator}-${i}`));
const find = (at: number, locator: string, more = {}): EvidenceEvent & { id: string } =>
  step(at, at + 4, { action: 'find', command: 'find element', locator: css(locator), ...more });

describe('times', () => {
  const fareRead = (answered: number, slept: number): EvidenceEvent[] => [
    open(),
    ...quick(30),
    press(80),
    exchange(85, answered, { url: `${url}/api/fare` }),
    reads(90 + slept, '€ 12'),
  ];
  it('a fixed sleep is told with what came while it lasted', () => {
    const others = [180, 260, 300].map((answered) => fareRead(answered, 400));
    const found = risk('fixed-sleep', fareRead(240, 400), others)!;
    expect(found.summary).toMatch(/^Slept 400 ms before Read .+; GET \/api\/fare had come 250 ms before, in 4 passing/);
    expect(found.change).toContain('Wait for the answer of GET /api/fare instead of 400 ms');
    expect(risk('unwaited', fareRead(240, 400), others)).toBeUndefined();
    expect(risk('fixed-sleep', fareRead(95, 6))).toBeUndefined();
  });
  it('the less time is left, the plainer', () => {
    const at = (slept: number): number =>
      risk(
        'fixed-sleep',
        fareRead(240, slept),
        [180, 220].map((answered) => fareRead(answered, slept)),
      )!.strength;
    expect(at(170)).toBeGreaterThan(at(900));
  });
  it('what passed without an answer does not need it', () => {
    const late = fareRead(900, 400);
    const found = risk('fixed-sleep', fareRead(240, 400), [late, fareRead(250, 400)])!;
    expect(found.summary).not.toContain('/api/fare');
  });
  it('what stands at the target and had just come was waited for by nothing', () => {
    const quickly = (came: number): EvidenceEvent[] => [
      open(),
      press(30),
      element(0, 'absent', 'css=#out', { node: null }),
      element(came, 'appeared', 'css=#out', { node: 1, text: 'S-12' }),
      reads(160, 'S-12'),
    ];
    const found = risk('unwaited', quickly(120), [quickly(100), quickly(140)])!;
    expect(found.summary).toMatch(/what stands there had come 40 ms before, in 3 passing attempts at least 20 ms/);
    // Waited for by polls: whatever the time, it waits.
    const waits = [60, 90, 120].map((at) => find(at, '#out', { error: missing }));
    const polled = [open(), press(30), ...waits, find(150, '#out', { element: 'a' }), reads(160, 'S-12')];
    expect(risk('unwaited', [...polled, ...quickly(120).slice(2, 4)])).toBeUndefined();
  });
  it('chances: between none and all, more for more time taken, less for more given', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 1e5, noNaN: true }), { minLength: 1, maxLength: 12 }),
        fc.double({ min: 0, max: 1e5, noNaN: true }),
        (took, given) => {
          const chance = chanceLate(took, given);
          expect(chance).toBeGreaterThanOrEqual(0);
          expect(chance).toBeLessThanOrEqual(1);
          expect(chanceLate(took, given * 2 + 1)).toBeLessThanOrEqual(chance + 1e-12);
          expect(
            chanceLate(
              took.map((ms) => ms * 2 + 2),
              given,
            ),
          ).toBeGreaterThanOrEqual(chance - 1e-12);
        },
      ),
    );
  });
  it('a wait near its limit', () => {
    const limit = step(21, 22, { action: 'settings', command: 'set timeouts', implicit: 1000 });
    const slow = (used: number): EvidenceEvent[] => [
      open(),
      limit,
      step(30, 30 + used, { action: 'find', command: 'find element', locator: css('#out'), element: 'a' }),
    ];
    expect(risk('thin-limit', slow(820))!.summary).toMatch(/took 820 ms of the 1.0 s it is given/);
    expect(risk('thin-limit', slow(300))).toBeUndefined();
  });
});

describe('the page', () => {
  it('a value that the page changed by itself after it was read', () => {
    const events = (changes: boolean): EvidenceEvent[] => [
      open(),
      element(0, 'appeared', 'css=#out', { node: 1, text: '€ 10' }),
      reads(40, '€ 10'),
      ...(changes ? [element(180, 'changed', 'css=#out', { node: 1, text: '€ 12' }, { changed: ['text'] })] : []),
      line(400, 'the end'),
    ];
    expect(risk('read-too-early', events(true))!.summary).toMatch(/gave “€ 10”; 134 ms later the page made it “€ 12”/);
    expect(risk('read-too-early', events(false))).toBeUndefined();
  });
  it('another page right before a step, and something sent right before another page', () => {
    const came = page(70, 'navigation-committed', { address: `${url}/pay` });
    expect(risk('page-left-behind', [open(), press(30), came, press(90, '#next')])!.summary).toMatch(
      /Another page came 20 ms before/,
    );
    expect(risk('page-left-behind', [open(), press(30), press(90, '#next')])).toBeUndefined();
    const sent = exchange(35, 80, { url: `${url}/api/hold`, method: 'POST' });
    const leave = step(100, 140, { action: 'open', command: 'navigate to', input: `${url}/mine` });
    expect(risk('left-under-way', [open(), press(30), sent, leave])!.summary).toMatch(
      /came 20 ms after the answer of POST \/api\/hold/,
    );
    expect(risk('left-under-way', [open(), press(30), leave])).toBeUndefined();
  });
  it('an element held where the page draws anew, and not one found right before its use', () => {
    const redrawn = element(60, 'replaced', 'css=#row', { node: 2 });
    const found = find(100, '#row', { element: 'a' });
    const use = (at: number): EvidenceEvent => press(at, '#row', { element: 'a', foundBy: found.id });
    expect(risk('held-across-redraw', [open(), redrawn, found, use(400)])!.summary).toMatch(
      /was found 296 ms before; the page drew that place anew once, nearest 340 ms before/,
    );
    expect(risk('held-across-redraw', [open(), redrawn, found, use(105)])).toBeUndefined();
    expect(risk('held-across-redraw', [open(), found, use(400)])).toBeUndefined();
  });
  it('a place measured before it is pressed, and what lay over a target at another time', () => {
    const measure = step(50, 54, {
      action: 'read',
      command: 'get element rect',
      subject: 'rect',
      locator: css('#add'),
    });
    const pointer = step(200, 260, { action: 'keys', command: 'perform actions', input: '{"type":"pointerDown"}' });
    expect(risk('place-measured-before', [open(), measure, pointer])!.summary).toMatch(/measured 206 ms before/);
    expect(risk('place-measured-before', [open(), pointer])).toBeUndefined();
    const over = element(300, 'covered', 'css=#go', { node: 1, coveredBy: 'the notice' });
    expect(risk('covered-at-times', [open(), press(30), over])!.summary).toMatch(/“the notice” lay over .* after the/);
  });
  it('what others left, whatever stands in its place', () => {
    const began = (local: unknown): EvidenceEvent[] => [
      page(0, 'circumstances', { circumstances: { cookies: ['visit'], local } as never }),
      step(5, 20, { action: 'open', command: 'navigate to', input: `${url}/hold` }),
    ];
    expect(risk('left-by-others', began(['draft']))!.summary).toContain('“visit”, “draft”');
    expect(risk('left-by-others', began(null))!.summary).toContain('1 cookie or stored value');
    expect(risk('left-by-others', began('anything'))).toBeDefined();
  });
  it('what comes from somebody else', () => {
    const events = (came: number): EvidenceEvent[] => [
      open(),
      press(30),
      exchange(40, came, { url: 'http://maps.test/place', host: 'maps.test', own: false }),
      element(0, 'absent', 'css=#out', { node: null }),
      element(came + 8, 'appeared', 'css=#out', { node: 1, text: 'Pier 4' }),
      reads(400, 'Pier 4'),
    ];
    expect(risk('outside-answer', events(200), [events(180), events(260)])!.summary).toMatch(
      /right after GET maps.test \/place, in 3 of 3 passing attempts/,
    );
  });
});

describe('locators, branches and data', () => {
  it('the first of several, plainer where the first is another each time', () => {
    const events = (name: string, all = 3): EvidenceEvent[] => [
      open(),
      element(0, 'appeared', 'css=.card', { node: 1, count: all, text: name }),
      press(30, '.card'),
    ];
    const same = risk('first-of-several', events('Ferry'), [events('Ferry')])!;
    const other = risk('first-of-several', events('Ferry'), [events('Tour')])!;
    expect(other.strength).toBeGreaterThan(same.strength);
    expect(other.summary).toContain('the first was “Ferry” once, then “Tour”');
    expect(risk('first-of-several', events('Ferry', 1))).toBeUndefined();
  });
  it('locators that a program makes up, or that are counted', () => {
    expect(risk('made-up-locator', [open(), press(30, '.css-1x9ab7q')])!.strength).toBe(1);
    expect(risk('made-up-locator', [open(), press(30, '#field-3')])!.strength).toBeLessThan(1);
    expect(risk('made-up-locator', [open(), press(30, '[data-test="pay"]')])).toBeUndefined();
  });
  it('a step done at times, and a look that decides at one moment', () => {
    const events = (agrees: boolean): EvidenceEvent[] => [
      open(),
      press(30, '#tariff'),
      ...(agrees ? [press(60, '#agree')] : []),
      press(90, '#pay'),
      reads(120, 'paid'),
    ];
    expect(risk('step-sometimes', events(true), [events(false), events(true)])!.summary).toMatch(
      /was done in 2 of 3 passing attempts/,
    );
    expect(risk('step-sometimes', events(true), [events(true), events(true)])).toBeUndefined();
    expect(risk('looked-once', [open(), find(30, '#ask', { error: missing }), press(60)])!.summary).toMatch(
      /found nothing at its one look/,
    );
    expect(risk('looked-once', [open(), find(30, '#ask', { element: 'a' }), press(60)])).toBeUndefined();
  });
  it('frames and windows by their order', () => {
    const frame = (more: object): EvidenceEvent =>
      step(30, 34, { action: 'frame', command: 'switch to frame', ...more });
    expect(risk('window-by-order', [open(), frame({ number: 0 }), press(60)])).toBeDefined();
    expect(risk('window-by-order', [open(), frame({ locator: css('#pay') }), press(60)])).toBeUndefined();
    const other = step(30, 34, { action: 'window', command: 'switch to window', handle: 'W2' });
    const asks = step(40, 44, { action: 'read', command: 'get current url', subject: 'address', result: url });
    expect(risk('window-by-order', [open(), other, press(60)])).toBeDefined();
    expect(risk('window-by-order', [open(), other, asks, press(60)])).toBeUndefined();
  });
  it('a list of which each was looked at', () => {
    const all = step(30, 34, { action: 'find', command: 'find elements', locator: css('.row'), result: 2 });
    const each = (i: number): EvidenceEvent =>
      reads(40 + 10 * i, 'on sale', '.row', { foundBy: all.id, element: `r${i}` });
    expect(risk('list-may-be-empty', [open(), all, each(0), each(1)])).toBeDefined();
    expect(risk('list-may-be-empty', [open(), all, each(0)])).toBeUndefined();
  });
  it('what is made up anew, what hangs on the day, a secret that is shown', () => {
    const types = (input: string): EvidenceEvent[] => [
      open(),
      step(30, 40, { action: 'type', command: 'element send keys', locator: css('#name'), input }),
    ];
    expect(risk('made-up-input', types('Ada'), [types('Bo'), types('Cem')])!.summary).toContain('“Ada”, “Bo”, “Cem”');
    expect(risk('made-up-input', types('3'), [types('7'), types('5')])!.summary).toContain('numbers from 3 to 7');
    expect(risk('made-up-input', types('Ada'), [types('Ada'), types('Ada')])).toBeUndefined();
    expect(risk('day-dependent', types('2026-11-21'))).toBeDefined();
    expect(risk('day-dependent', types('2027-11-21'))).toBeUndefined();
    const shown = (type: string): EvidenceEvent[] => [
      element(0, 'appeared', 'css=#name', { node: 1, attrs: { type } }),
      ...types(maskMark),
    ];
    expect(risk('secret-shown', shown('text'))).toBeDefined();
    expect(risk('secret-shown', shown('password'))).toBeUndefined();
  });
});

describe('outlook', () => {
  const one = (kind: RiskKind, strength = 1, key = 'a'): Risk => ({
    kind,
    key,
    step: 'Press',
    at: 0,
    summary: 's',
    change: 'c',
    strength,
    evidence: [],
  });
  it('is more for more risks, and for what is seen more often; secrets make nothing flake', () => {
    const of = (...attempts: Risk[][]): number =>
      outlookOf(attempts.map((list, i) => ({ id: `${i}`, risks: list }))).score;
    expect(of([one('fixed-sleep')], [one('fixed-sleep')])).toBeGreaterThan(of([one('fixed-sleep')], []));
    expect(of([one('fixed-sleep'), one('unwaited')])).toBeGreaterThan(of([one('fixed-sleep')]));
    expect(of([one('secret-shown')])).toBe(0);
    expect(of([], [])).toBe(0);
  });
  it('a score lies between none and all, and is that of its risks', () => {
    const anyRisk = fc.record({
      kind: fc.constantFrom(...riskKinds),
      strength: fc.double({ min: 0, max: 1, noNaN: true }),
      key: fc.constantFrom('a', 'b'),
    });
    fc.assert(
      fc.property(fc.array(fc.array(anyRisk, { maxLength: 6 }), { minLength: 1, maxLength: 12 }), (lists) => {
        const told = outlookOf(
          lists.map((list, i) => ({
            id: `${i}`,
            risks: list.map(({ kind, strength, key }) => one(kind, strength, key)),
          })),
        );
        expect(told.score).toBeGreaterThanOrEqual(0);
        expect(told.score).toBeLessThanOrEqual(1);
        for (const { chance, kind, seen, of } of told.risks) {
          expect(chance).toBeLessThanOrEqual(chances[kind]);
          expect(seen).toBeLessThanOrEqual(of);
        }
        if (told.risks.length === 0) expect(told.score).toBeLessThan(listedFrom);
      }),
    );
  });
  it('an attempt that did not pass has none, and every kind has its words', () => {
    const scene = sceneOf([open(), press(30, '.css-1x9ab7q')], facts('failed', 'x'), {
      id: 'f',
      startedAt,
      passing: [],
    });
    expect(risksOf(scene)).toEqual([]);
    expect(Object.keys(riskNames).sort()).toEqual([...riskKinds].sort());
  });
});
