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
}
const factsOf = ({ width = 1280, message = '', outcome = 'passed' }: Told) => {
  const base = facts(outcome, message);
  return { ...base, environment: { ...base.environment, width, height: 800 } };
};
let count = 0;
const passed = (events: EvidenceEvent[], told: Told = {}): Sketch =>
  sketchOf(prepare(events, factsOf(told)), {
    id: `p${++count}`,
    startedAt: 0,
    ...(told.commit ? { commit: told.commit } : {}),
  });
const cluesOf = (events: EvidenceEvent[], passing: Sketch[], told: Told = {}) =>
  findClues(
    sceneOf(events, factsOf({ outcome: 'failed', ...told }), {
      id: 'f',
      startedAt: 0,
      passing,
      ...(told.commit ? { commit: told.commit } : {}),
    }),
  );
const clueOf = (code: string, ...rest: Parameters<typeof cluesOf>) => cluesOf(...rest).find((one) => one.code === code);

const url = 'http://ferry.test';
const open = (): EvidenceEvent => step(0, 20, { action: 'open', command: 'navigate to', input: `${url}/hold` });
const read = (at: number, value: string, locator = '#out'): EvidenceEvent[] => {
  const find = step(at, at + 5, { action: 'find', command: 'find element', locator: css(locator) });
  return [
    find,
    step(at + 6, at + 12, {
      action: 'read',
      command: 'get element text',
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

describe('what was done', () => {
  it('tells a step that was left out, and not one that the end of the attempt cut off', () => {
    const whole = [open(), press(50, '#agree'), press(100), ...read(200, 'on board')];
    const without = [open(), press(100), ...read(200, 'not agreed'), failed(230, 'on board', 'not agreed')];
    const others = [passed(whole), passed(whole), passed(whole)];
    expect(clueOf('step-left-out', without, others, message('on board', 'not agreed'))!.summary).toContain('3 of 3');
    expect(clueOf('step-left-out', [open(), press(50, '#agree')], others)).toBeUndefined();
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
          command: 'get element text',
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
});
