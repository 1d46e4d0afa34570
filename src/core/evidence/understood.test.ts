import { describe, expect, it } from 'vitest';
import { findClues } from '../clues/register.ts';
import { sceneOf } from '../clues/scene.ts';
import type { StepEvent } from './event.ts';
import { css, facts, step } from './samples.ts';
import { carriedSteps, isUnderstood } from './understood.ts';

const gone = { code: 'no such element', message: 'no such element' };
const carrier = '(helm, ...orders) => helm.carry(...orders)';
const carried = (count: number, args: (i: number) => unknown): StepEvent[] =>
  Array.from({ length: count }, (_, i) =>
    step(100 * i, 100 * i + 20, { action: 'script', input: carrier, arguments: [args(i)] }),
  );
const plain = (count: number): StepEvent[] =>
  Array.from({ length: count }, (_, i) =>
    step(5000 + 100 * i, 5020 + 100 * i, { action: 'read', locator: css(`#a${i}`) }),
  );

describe('steps of a client that nobody understands', () => {
  it('are those of one function with many arguments', () => {
    expect(carriedSteps(carried(8, (i) => `order ${i}`))).toHaveLength(8);
    expect(isUnderstood([...carried(8, (i) => `order ${i}`), ...plain(4)])).toBe(false);
  });

  it('are not a wait that asks the same again, nor a few among others, nor scripts of a test', () => {
    expect(isUnderstood(carried(8, () => 'the same'))).toBe(true);
    expect(isUnderstood([...carried(8, (i) => `order ${i}`), ...plain(9)])).toBe(true);
    const own = Array.from({ length: 12 }, (_, i) =>
      step(100 * i, 100 * i + 20, { action: 'script', input: `return fares[${i}]` }),
    );
    expect(isUnderstood(own)).toBe(true);
    expect(isUnderstood([])).toBe(true);
  });

  it('give no clue that rests on what was done or left undone', () => {
    const passed = facts('passed');
    const failedFind = step(4000, 4010, { action: 'press', locator: css('#pay'), error: gone });
    const codes = (events: StepEvent[]): string[] => findClues(sceneOf(events, passed)).map(({ code }) => code);
    expect(codes([...plain(4), failedFind, step(9000, 9010, { action: 'read', locator: css('#b') })])).toContain(
      'error-swallowed',
    );
    const unread = [
      ...carried(8, (i) => `order ${i}`),
      failedFind,
      step(9000, 9010, { action: 'read', locator: css('#b') }),
    ];
    expect(codes(unread)).not.toContain('error-swallowed');
  });
});
