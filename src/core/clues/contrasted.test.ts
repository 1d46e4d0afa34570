import { describe, expect, it } from 'vitest';
import { sketchOf, type Sketch } from '../contrast/sketch.ts';
import type { Outcome } from '../evidence/attempt.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { check, css, element, exchange, facts, step } from '../evidence/samples.ts';
import { findClues } from './register.ts';
import { sceneOf } from './scene.ts';

/** Clues that hold one attempt against passing ones, each on the smallest evidence that shows it. */

interface Told {
  commit?: string;
  width?: number;
  message?: string;
  outcome?: Outcome;
  place?: string;
  kin?: Sketch[];
}
const factsOf = ({ width = 1280, message = '', outcome = 'passed', place }: Told) => {
  const base = facts(outcome, message);
  return { ...base, environment: { ...base.environment, width, height: 800, ...(place ? { place } : {}) } };
};
let count = 0;
const passed = (events: EvidenceEvent[], told: Told = {}): Sketch =>
  sketchOf(prepare(events, factsOf(told)), {
    id: `p${++count}`,
    startedAt: 0,
    ...(told.commit ? { commit: told.commit } : {}),
  });
const cluesOf = (events: EvidenceEvent[], passing: Sketch[], told: Told = {}) =>
  findClues({
    ...sceneOf(events, factsOf({ outcome: 'failed', ...told }), {
      id: 'f',
      startedAt: 0,
      passing,
      ...(told.commit ? { commit: told.commit } : {}),
    }),
    ...(told.kin ? { kin: told.kin } : {}),
  });
const clueOf = (code: string, ...rest: Parameters<typeof cluesOf>) => cluesOf(...rest).find((one) => one.code === code);

const url = 'http://ferry.test';
const open = (): EvidenceEvent => step(0, 20, { action: 'open', command: 'navigate to', input: `${url}/hold` });
const read = (at: number, value: string, locator = '#out'): EvidenceEvent[] => {
  const find = step(at, at + 5, { action: 'find', command: 'find element', locator: css(locator) });
  return [
    find,
    step(at + 6, at + 12, {
      action: 'read',
      command: 'get text',
      subject: 'text',
      locator: css(locator),
      foundBy: find.id,
      result: value,
    }),
  ];
};
const press = (at: number, locator = '#go'): EvidenceEvent =>
  step(at, at + 10, { action: 'press', command: 'element click', locator: css(locator) });
const type = (at: number, input: string): EvidenceEvent =>
  step(at, at + 10, { action: 'type', command: 'element send keys', locator: css('#who'), input });
const failed = (at: number, expected: string, actual: string): EvidenceEvent => check(at, false, expected, actual);
const message = (expected: string, actual: string): Told => ({ message: `expected "${expected}" but got "${actual}"` });

describe('requests under way', () => {
  const attempt = (answered: number): EvidenceEvent[] => [
    open(),
    exchange(30, answered, { url: `${url}/api/rules` }),
    press(100),
    ...read(200, 'ok'),
  ];
  it('tells an action that came before an answer all others had waited for', () => {
    const others = [60, 62, 65, 70].map((at) => passed(attempt(at)));
    expect(clueOf('acted-while-under-way', attempt(900), others)).toMatchObject({ at: 100, until: 900 });
    expect(clueOf('acted-while-under-way', attempt(64), others)).toBeUndefined();
    expect(clueOf('acted-while-under-way', attempt(900), [])).toBeUndefined();
  });

  it('tells a press that was quicker than the page was to ask for what was typed', () => {
    const attempt = (asked: number, pressed: number): EvidenceEvent[] => [
      open(),
      type(60, 'Kuzu'),
      exchange(asked, asked + 20, { url: `${url}/api/ports?q=${asked < pressed ? 'Kuzu' : 'Lodos'}` }),
      element(50, 'appeared', 'css=li', { node: 4, name: 'Lodos Harbour', text: 'Lodos Harbour' }),
      press(pressed, 'li'),
      ...read(300, 'Lodos Harbour', '#to'),
    ];
    const wrong = message('Kuzu Island', 'Lodos Harbour');
    const others = [200, 210, 220].map((at) => passed(attempt(85, at)));
    const told = clueOf('acted-before-reaction', attempt(125, 80), others, wrong)!;
    expect(told.summary).toContain('before it asked for GET /api/ports; in 3 of 3 passing attempts it had by then');
    // Under way is another matter, and so is a page that never did more in attempts that pass.
    expect(clueOf('acted-before-reaction', attempt(85, 90), others, wrong)).toBeUndefined();
    expect(clueOf('acted-before-reaction', attempt(125, 80), [passed(attempt(85, 200))], wrong)).toBeUndefined();
    expect(clueOf('acted-before-reaction', attempt(125, 80), others, message('ok', 'no'))).toBeUndefined();
    const quick = [70, 72, 74].map((at) => passed(attempt(125, at)));
    expect(clueOf('acted-before-reaction', attempt(125, 80), quick, wrong)).toBeUndefined();
  });

  it('tells a value read before an answer, with and without others to compare with', () => {
    const values = (answered: number, value: string): EvidenceEvent[] => [
      open(),
      exchange(30, answered, { url: `${url}/api/points` }),
      ...read(100, value),
      failed(120, '120', value),
    ];
    const others = [60, 62, 65].map((at) => passed(values(at, '120')));
    expect(clueOf('read-while-under-way', values(600, '0'), others, message('120', '0'))!.strength).toBeGreaterThan(
      0.9,
    );
    expect(clueOf('read-while-under-way', values(600, '0'), [], message('120', '0'))!.strength).toBeLessThan(0.9);
    expect(clueOf('read-while-under-way', values(60, '0'), others, message('120', '0'))).toBeUndefined();
  });
});

describe('when answers came', () => {
  const attempt = (prices: number, seats: number): EvidenceEvent[] => [
    open(),
    exchange(30, prices, { url: `${url}/api/prices` }),
    exchange(32, seats, { url: `${url}/api/seats` }),
    ...read(900, 'ok'),
  ];
  const others = [60, 64, 70, 75].map((at) => passed(attempt(at, at + 40)));

  it('tells an order of answers that passing attempts never have', () => {
    const told = clueOf('answered-out-of-order', attempt(140, 90), others)!;
    expect(told.summary).toContain(
      '/api/prices answered after GET /api/seats; in 4 of 4 passing attempts it was the other',
    );
    expect(clueOf('answered-out-of-order', attempt(62, 100), others)).toBeUndefined();
    // Where passing attempts have it both ways, it tells nothing.
    const both = [...others, ...[80, 85, 90].map((at) => passed(attempt(at + 40, at)))];
    expect(clueOf('answered-out-of-order', attempt(140, 90), both)).toBeUndefined();
    expect(clueOf('answered-out-of-order', attempt(140, 90), [])).toBeUndefined();
  });

  it('tells an answer later than in all others by more than they vary, and not one that was sooner', () => {
    const told = clueOf('answered-later', attempt(64, 800), others)!;
    expect(told).toMatchObject({ at: 32, until: 800 });
    expect(told.summary).toBe('GET /api/seats took 768 ms; in 4 of 4 passing attempts 68 ms to 83 ms');
    expect(clueOf('answered-later', attempt(64, 120), others)).toBeUndefined();
    const slow = [700, 705, 710].map((at) => passed(attempt(60, at)));
    expect(clueOf('answered-later', attempt(60, 100), slow)).toBeUndefined();
  });
});

describe('what was done', () => {
  it('tells a step that was left out, and not one that the end of the attempt cut off', () => {
    const whole = [open(), press(50, '#agree'), press(100), ...read(200, 'on board')];
    const without = [open(), press(100), ...read(200, 'not agreed'), failed(230, 'on board', 'not agreed')];
    const others = [passed(whole), passed(whole), passed(whole)];
    expect(clueOf('step-left-out', without, others, message('on board', 'not agreed'))!.summary).toContain('3 of 3');
    expect(clueOf('step-left-out', [open(), press(50, '#agree')], others)).toBeUndefined();
  });

  it('tells a step taken at another time than in passing attempts from one left out', () => {
    const whole = [open(), press(50, '#agree'), press(100), press(150, '#pay'), ...read(200, 'on board')];
    const late = [
      open(),
      press(50),
      press(100, '#pay'),
      press(150, '#agree'),
      ...read(200, 'held'),
      failed(230, 'a', 'b'),
    ];
    const others = [passed(whole), passed(whole), passed(whole)];
    expect(clueOf('step-out-of-order', late, others)!.summary).toContain('came later than in 3 of 3 passing attempts');
    expect(clueOf('step-left-out', late, others)).toBeUndefined();
    expect(clueOf('step-out-of-order', whole, others)).toBeUndefined();
    const without = [open(), press(50), press(100, '#pay'), ...read(200, 'held'), failed(230, 'a', 'b')];
    expect(clueOf('step-out-of-order', without, others)).toBeUndefined();
  });

  it('tells data that is unlike what passing attempts typed: characters, range, and nothing else', () => {
    const attempt = (input: string): EvidenceEvent[] => [open(), type(50, input), press(100)];
    const names = ['Ada Kaya', 'Mert Demir', 'Selin Ak'].map((name) => passed(attempt(name)));
    expect(clueOf('odd-input', attempt("Ines O'Rourke"), names)!.summary).toContain("“'”");
    expect(clueOf('odd-input', attempt('Can Polat'), names)).toBeUndefined();
    const numbers = ['2', '5', '6'].map((n) => passed(attempt(n)));
    expect(clueOf('odd-input', attempt('11'), numbers)!.summary).toContain('beyond the 2 to 6');
    expect(clueOf('odd-input', attempt('4'), numbers)).toBeUndefined();
    expect(clueOf('odd-input', attempt('code+7'), [])!.strength).toBeLessThan(0.7);
  });
});

describe('where and under what', () => {
  it('tells a window of another size, and not one of the same', () => {
    const events = [open(), press(50)];
    expect(clueOf('size-differs', events, [passed(events)], { width: 600 })!.summary).toContain('600×800');
    expect(clueOf('size-differs', events, [passed(events)], { width: 1280 })).toBeUndefined();
  });

  it('tells a place in which none has passed, unless it failed so in another as well', () => {
    const events = [open(), press(50)];
    const others = ['laptop', 'laptop', 'desk'].map((place) => passed(events, { place }));
    expect(clueOf('place-only', events, others, { place: 'ci' })!.summary).toBe(
      'It ran at ci; in 3 of 3 passing attempts it was laptop or desk',
    );
    expect(clueOf('place-only', events, others, { place: 'desk' })).toBeUndefined();
    expect(clueOf('place-only', events, others)).toBeUndefined();
    const kin = [passed(events, { place: 'laptop' })];
    expect(clueOf('place-only', events, others, { place: 'ci', kin })).toBeUndefined();
  });

  it('tells that all found the same wrong value, as long as none has passed', () => {
    const attempt = (value: string): EvidenceEvent[] => [open(), ...read(50, value), failed(80, '442', value)];
    const kin = ['412', '412'].map((value) => passed(attempt(value), { outcome: 'failed' }));
    const about = { ...message('442', '412'), kin };
    expect(clueOf('same-wrong-value', attempt('412'), [], about)!.summary).toContain('All 3 attempts');
    expect(clueOf('same-wrong-value', attempt('412'), [passed(attempt('442'))], about)).toBeUndefined();
    expect(clueOf('same-wrong-value', attempt('412'), [], { ...about, kin: kin.slice(1) })).toBeUndefined();
    expect(clueOf('same-wrong-value', attempt('413'), [], { ...message('442', '413'), kin })).toBeUndefined();
  });

  it('tells a value that is another one since a commit, if the others agree on theirs', () => {
    const attempt = (value: string): EvidenceEvent[] => [open(), ...read(50, value), failed(80, '442', value)];
    const before = ['442', '442', '442'].map((value) => passed(attempt(value), { commit: 'aaaa' }));
    expect(
      clueOf('value-since-commit', attempt('412'), before, { commit: 'bbbb', ...message('442', '412') }),
    ).toBeDefined();
    expect(
      clueOf('value-since-commit', attempt('412'), before, { commit: 'aaaa', ...message('442', '412') }),
    ).toBeUndefined();
    const torn = ['442', '441', '440'].map((value) => passed(attempt(value), { commit: 'aaaa' }));
    expect(
      clueOf('value-since-commit', attempt('412'), torn, { commit: 'bbbb', ...message('442', '412') }),
    ).toBeUndefined();
  });

  it('tells a machine that is short of time from one slow step', () => {
    const attempt = (by: number, last = by): EvidenceEvent[] => [
      step(0, 20 * by, { action: 'open', command: 'navigate to', input: `${url}/plan` }),
      ...[1, 2, 3, 4, 5].map((n) =>
        step(n * 1000, n * 1000 + 10 * by, {
          action: 'read',
          command: 'get text',
          subject: 'text',
          locator: css(`#n${n}`),
          result: 'x',
        }),
      ),
      step(9000, 9000 + 30 * last, { action: 'press', command: 'element click', locator: css('#go') }),
    ];
    const others = [1, 1.1, 0.9].map((by) => passed(attempt(by)));
    expect(clueOf('all-stretched', attempt(4), others)!.summary).toContain('40 ms each against 10 ms');
    expect(clueOf('all-stretched', attempt(1, 30), others)).toBeUndefined();
  });

  it('tells a clock that stands outside of when the others were made', () => {
    const attempt = (clock: string, value: string): EvidenceEvent[] => [
      open(),
      ...read(50, clock, 'time'),
      ...read(80, value),
      failed(99, 'now', value),
    ];
    const others = ['10:20', '13:05', '16:40'].map((clock) => passed(attempt(clock, 'now')));
    expect(clueOf('clock-shown', attempt('23:10', 'tomorrow'), others, message('now', 'tomorrow'))).toBeDefined();
    expect(clueOf('clock-shown', attempt('11:11', 'tomorrow'), others, message('now', 'tomorrow'))).toBeUndefined();
  });
});

describe('what can be told without any passing attempt', () => {
  const several = (pressed: string, found: string): EvidenceEvent[] => [
    open(),
    element(20, 'appeared', 'css=.card', { node: 1, text: pressed, count: 3, visible: true }),
    press(50, '.card'),
    ...read(300, found),
    check(310, false, 'Winter crossing', found),
  ];
  const told = { outcome: 'failed' as const, message: `offer: expected 'Winter crossing' but got 'x'` };

  it('is that the first of several was pressed, and the page speaks of it', () => {
    expect(
      clueOf(
        'pressed-of-several-shown',
        several('Harbour hotel', 'Harbour hotel, 2 nights'),
        [],
        message('Winter crossing', 'Harbour hotel, 2 nights'),
      ),
    ).toMatchObject({ at: 50, summary: expect.stringContaining('took the first of 3') as string });
    expect(
      clueOf(
        'pressed-of-several-shown',
        several('Harbour hotel', 'No offers'),
        [],
        message('Winter crossing', 'No offers'),
      ),
    ).toBeUndefined();
  });

  it('is that a dialog came upon an act of a test that answers none', () => {
    const dialog = (at: number): EvidenceEvent => ({
      id: `d${at}`,
      lane: 'window',
      kind: 'dialog-opened',
      at,
      clock: 'attempt',
      data: { context: 'w', text: 'Only 3 left. Go on?' },
    });
    const events = (at: number): EvidenceEvent[] => [
      open(),
      press(50),
      dialog(at),
      ...read(900, '0'),
      check(910, false, '2', '0'),
    ];
    expect(clueOf('dialog-in-the-way', events(80), [], told)).toMatchObject({
      summary: expect.stringMatching(
        /“Only 3 left\. Go on\?” opened upon Press on .*, and the test answers none/,
      ) as string,
    });
    // Long after the last act it came by itself, and where the test answers dialogs it counts on them.
    expect(clueOf('dialog-in-the-way', events(850), [], told)).toBeUndefined();
    const answer = step(860, 870, { action: 'dialog', command: 'accept alert', label: 'Accept the dialog' });
    expect(clueOf('dialog-in-the-way', [...events(80), answer], [], told)).toBeUndefined();
  });
});

describe('passing attempts', () => {
  const list = (found: number): EvidenceEvent[] => [
    open(),
    step(50, 60, { action: 'find', command: 'find elements', locator: css('.row'), result: found }),
    ...(found ? [check(70, true, 'x', 'x')] : []),
  ];
  it('are doubted where a check went through an empty list that others find full', () => {
    const others = [3, 3, 3].map((n) => passed(list(n)));
    expect(clueOf('nothing-checked', list(0), others, { outcome: 'passed' })!.strength).toBe(1);
    expect(clueOf('nothing-checked', list(3), others, { outcome: 'passed' })).toBeUndefined();
    expect(
      clueOf(
        'nothing-checked',
        list(0),
        [0, 0, 0].map((n) => passed(list(n))),
        { outcome: 'passed' },
      ),
    ).toBeUndefined();
  });

  it('are doubted where a checked value changed by itself, and not where the test changed it', () => {
    const before = element(40, 'appeared', 'css=#out', { node: 1, text: 'free' });
    const after = element(400, 'changed', 'css=#out', { node: 1, text: 'taken' });
    const checked = [open(), before, ...read(50, 'free'), check(70, true, 'free', 'free')];
    expect(
      clueOf(
        'changed-after-check',
        [...checked, after, step(600, 610, { action: 'read', locator: css('h1'), result: 'x' })],
        [],
        { outcome: 'passed' },
      ),
    ).toMatchObject({ until: 400 });
    expect(clueOf('changed-after-check', [...checked, press(200), after], [], { outcome: 'passed' })).toBeUndefined();
  });

  it('are doubted where what was not there came with an answer that was under way', () => {
    const looked = [
      open(),
      element(20, 'absent', 'css=.problem', { node: null }),
      step(100, 110, { action: 'find', command: 'find elements', locator: css('.problem'), result: 0 }),
      check(120, true, '0', '0'),
    ];
    const came = element(705, 'appeared', 'css=.problem', { node: 3, text: 'Too far' });
    const asked = (at: number, until: number, more: object = {}): EvidenceEvent =>
      exchange(at, until, { url: 'http://ferry.test/area', own: true, type: 'fetch', ...more });
    const told = (...more: EvidenceEvent[]): ReturnType<typeof clueOf> =>
      clueOf('appeared-after-check', [...looked, ...more], [], { outcome: 'passed' });
    expect(told(asked(60, 700), came)).toMatchObject({
      at: 100,
      until: 705,
      summary: expect.stringContaining(
        'while GET /area was under way; with its answer, 595 ms later, it came, “Too far”',
      ) as string,
    });
    // What the test did in between changes nothing of it.
    expect(told(asked(60, 700), press(300), came)).toBeDefined();
    // Asked only after the check, long answered when it came, or an ornament: then that is not where it came from.
    expect(told(asked(300, 700), came)).toBeUndefined();
    expect(told(asked(60, 400), came)).toBeUndefined();
    expect(told(asked(60, 700, { type: 'image' }), came)).toBeUndefined();
  });
});
