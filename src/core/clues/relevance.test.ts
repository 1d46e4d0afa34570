import { describe, expect, it } from 'vitest';
import { sketchOf, type Sketch } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import {
  check,
  css,
  element,
  exchange,
  facts,
  page,
  press,
  reads,
  step,
  url,
  windowEvent,
} from '../evidence/samples.ts';
import { Ordinary } from '../ordinary/ordinary.ts';
import type { Clue } from './clue.ts';
import type { ClueCode } from './codes.ts';
import { findClues } from './register.ts';
import { didWithout, isFedBy } from './relevance.ts';
import { sceneOf } from './scene.ts';

/** What clues are worth: by what the failing step waits for, and by what happens on any day. */

let count = 0;
const passed = (events: EvidenceEvent[]): Sketch =>
  sketchOf(prepare(events, facts('passed', '')), { id: `p${++count}`, startedAt: 0 });
const scene = (events: EvidenceEvent[], passing: Sketch[], message: string, ordinary?: Ordinary) =>
  sceneOf(events, facts('failed', message), { id: 'f', startedAt: 0, passing, ...(ordinary ? { ordinary } : {}) });
const clue = (code: ClueCode, ...rest: Parameters<typeof scene>): Clue | undefined =>
  findClues(scene(...rest)).find((one) => one.code === code);

const open = (): EvidenceEvent => step(0, 20, { action: 'open', command: 'navigate to', input: `${url}/fares` });
/** A visit: the fare comes with its answer, an advert comes when it likes. */
const visit = (fareMs: number, advertMs: number, told: string, readAt = 400): EvidenceEvent[] => [
  open(),
  exchange(30, 30 + fareMs, { url: `${url}/api/fare` }),
  exchange(30, 30 + advertMs, { url: `${url}/api/advert` }),
  // The attempt goes on for seconds: what comes close together in a short one may do so by chance.
  exchange(10, 6000, { url: `${url}/live`, type: 'eventsource' }),
  element(25, 'appeared', 'css=#out', { node: 1, text: '…', visible: true }),
  element(35 + fareMs, 'changed', 'css=#out', { node: 1, text: '12', visible: true }),
  reads(readAt, told),
  check(readAt + 20, told === '12', '12', told),
];
const message = "fare: expected '12' but got '…'";

describe('what a step waits for', () => {
  const passing = [visit(60, 100, '12'), visit(80, 900, '12'), visit(70, 200, '12')].map(passed);
  const failed = visit(700, 900, '…');

  it('is the answer after which its target came to be what it was', () => {
    const one = scene(failed, passing, message);
    expect(isFedBy(one, 'GET /api/fare')).toBe(true);
    expect(isFedBy(one, 'GET /api/advert')).toBe(false);
    expect(isFedBy(scene(failed, passing.slice(0, 1), message), 'GET /api/fare')).toBeUndefined();
  });

  it('is not known of what the page asks all the time: its answers are near to everything', () => {
    const asking = (fareMs: number, told: string): EvidenceEvent[] => [
      ...visit(fareMs, 100, told),
      ...Array.from({ length: 18 }, (_, i) => exchange(i * 300, i * 300 + 60, { url: `${url}/api/pulse` })),
    ];
    const one = scene(
      asking(700, '…'),
      [60, 70, 80].map((ms) => passed(asking(ms, '12'))),
      message,
    );
    expect(isFedBy(one, 'GET /api/pulse')).not.toBe(true);
    expect(isFedBy(one, 'GET /api/fare')).toBe(true);
  });

  it('is not what passing attempts did without', () => {
    const one = scene(failed, passing, message);
    expect(didWithout(one, 'GET /api/advert')).toEqual({ hits: 1, of: 3 });
    expect(didWithout(one, 'GET /api/fare')).toEqual({ hits: 0, of: 3 });
  });

  it('weighs as a clue, and what it does not wait for says so', () => {
    const read = clue('read-while-under-way', failed, passing, message)!;
    expect(read.summary).toContain('GET /api/fare was under way');
    expect(read.strength).toBe(0.95);
    const late = findClues(
      scene(visit(60, 4000, '…'), [passing[0]!, passing[2]!, passed(visit(60, 390, '12'))], message),
    );
    for (const one of late.filter(({ code }) => code === 'answered-later' || code === 'read-while-under-way'))
      expect(one.strength, one.summary).toBeLessThan(0.5);
  });
});

describe('what is usual', () => {
  const throws = (at: number): EvidenceEvent => ({
    id: `x${++count}`,
    lane: 'console',
    kind: 'exception',
    at,
    clock: 'browser',
    data: { level: 'error', text: 'Uncaught TypeError: x is null', uncaught: true, source: `${url}/count.js:12` },
  });
  const failed = [open(), throws(40), reads(100, 'old'), check(120, false, 'new', 'old')];
  const told = "expected 'new' but got 'old'";

  it('explains no failure, and says how often it is so', () => {
    const ordinary = new Ordinary();
    for (let i = 0; i < 40; i++) ordinary.take(passed([open(), ...(i % 2 ? [throws(60)] : []), reads(100, 'new')]));
    const one = clue('exception-thrown', failed, [], told, ordinary)!;
    expect(one.strength).toBeLessThan(0.2);
    expect(one.summary).toContain('so it was in 20 of 40 attempts that passed, of all tests');
  });

  it('what nobody has seen before weighs whole', () => {
    const ordinary = new Ordinary();
    for (let i = 0; i < 400; i++) ordinary.take(passed([open(), reads(100, 'new')]));
    expect(clue('exception-thrown', failed, [], told, ordinary)!.strength).toBeGreaterThan(0.8);
    expect(clue('exception-thrown', failed, [], told)!.strength).toBe(0.85);
  });
});

describe('a page left too early', () => {
  const events = (post: Partial<Parameters<typeof exchange>[2]>, until: number): EvidenceEvent[] => [
    open(),
    press(100),
    exchange(120, until, { url: `${url}/orders`, method: 'POST', ...post }),
    step(600, 700, { action: 'open', command: 'navigate to', input: `${url}/account` }),
    page(610, 'navigation-started', { address: `${url}/account` }),
    page(660, 'navigation-committed', { address: `${url}/account` }),
    reads(800, '0'),
    check(820, false, '1', '0'),
  ];
  const told = "orders: expected '1' but got '0'";
  const lost = events({ status: undefined, failed: 'aborted by the page' }, 615);

  it('cuts off what was still being sent', () => {
    expect(clue('navigation-cut-off', lost, [], told)!.summary).toMatch(/cut off POST \/orders, .* 490 ms$/);
  });
  it('cuts off nothing that was answered, nor what passing attempts cut off as well', () => {
    expect(clue('navigation-cut-off', events({ status: 201 }, 300), [], told)).toBeUndefined();
    expect(clue('navigation-cut-off', lost, [passed(lost)], told)).toBeUndefined();
  });
});

describe('pointer actions', () => {
  const shift = { x: 100, y: 100, width: 80, height: 20 };
  const events = (label: string, box = { x: 0, y: 50, width: 600, height: 200 }): EvidenceEvent[] => [
    open(),
    element(30, 'appeared', 'css=#save', { node: 1, name: 'Save', visible: true, box: shift }),
    step(100, 110, { action: 'find', command: 'find element', locator: css('#save') }),
    step(120, 160, { action: 'keys', command: 'perform actions', input: '{"actions":[{"type":"pointerDown"}]}' }),
    page(140, 'press', { x: 140, y: 110, label, box }),
    reads(300, ''),
  ];
  const told = 'Timed out after 1000 ms waiting for the word that it is saved';

  it('that reach what lies over their target are covered', () => {
    const one = clue('press-point-covered', events('div.greeting'), [], told)!;
    expect(one.summary).toBe('div.greeting lay over the press point of “Save” and was pressed instead');
  });
  it.each([
    ['the target itself', 'button “Save”', shift],
    ['a part of it', 'span.icon', { x: 105, y: 102, width: 10, height: 10 }],
  ])('that reach %s are not', (_, label, box) => {
    expect(clue('press-point-covered', events(label, box), [], told)).toBeUndefined();
  });
});

describe('a dialog, a window', () => {
  it('that passing attempts never see', () => {
    const read = reads(200, '0');
    const failed = [
      open(),
      windowEvent(100, 'dialog-opened', { context: 'c', text: 'Only 3 left' }),
      read,
      check(220, false, '2', '0'),
    ];
    const passing = [passed([open(), reads(200, '2')]), passed([open(), reads(200, '2')])];
    expect(clue('dialog-in-the-way', failed, passing, "items: expected '2' but got '0'")!.summary).toBe(
      'A dialog “Only 3 left” opened, in 0 of 2 passing attempts',
    );
  });
});
