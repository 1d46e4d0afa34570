import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Clue } from '../clues/clue.ts';
import type { ClueCode } from '../clues/codes.ts';
import { causeCodes } from './cause.ts';
import { priorsOf, type Confirmed } from './learning.ts';
import { scoreSuspects } from './score.ts';

const now = 1_795_000_000_000;
const day = 86_400_000;
const times = (count: number, cause: string, at = now): Confirmed[] =>
  Array.from({ length: count }, () => ({ cause, at }));
const clue = (code: ClueCode, strength = 1): Clue => ({ code, at: 0, summary: code, strength, evidence: [] });

it('leans nowhere without verdicts', () => {
  for (const code of causeCodes) expect(priorsOf([], now)[code]).toBe(0);
});

it('ten verdicts of one kind move its probability visibly, and only within reason', () => {
  const clues = [clue('read-while-under-way', 0.6), clue('acted-while-under-way', 0.6)];
  const before = scoreSuspects(clues, 'failed');
  const after = scoreSuspects(clues, 'failed', priorsOf(times(10, 'early-check'), now));
  const of = (list: typeof before): number => list.suspects.find(({ cause }) => cause === 'early-check')!.probability;
  expect(of(after) - of(before)).toBeGreaterThan(0.03);
  // A cause that the clues prove stays proven.
  const proven = scoreSuspects([clue('press-point-covered')], 'failed', priorsOf(times(500, 'early-check'), now));
  expect(proven.suspects[0]).toMatchObject({ cause: 'covered-target' });
  expect(proven.suspects[0]!.probability).toBeGreaterThan(0.8);
});

it('names nothing by verdicts alone, however many', () => {
  expect(scoreSuspects([], 'failed', priorsOf(times(10_000, 'early-check'), now)).undetermined).toBe(true);
});

it('forgets: a verdict counts half after ninety days, and within a day not at all less', () => {
  const lean = (at: number): number => priorsOf(times(4, 'slow-response', at), now)['slow-response'];
  expect(lean(now - 90 * day)).toBeCloseTo(priorsOf(times(2, 'slow-response'), now)['slow-response'], 9);
  expect(lean(now - 1000)).toBe(lean(now));
});

it('is restored exactly when a verdict is taken back, is bounded, and ignores what it does not know', () => {
  const some = fc.array(
    fc.record({ cause: fc.constantFrom(...causeCodes), at: fc.integer({ min: now - 400 * day, max: now }) }),
    { maxLength: 80 },
  );
  fc.assert(
    fc.property(some, fc.nat(), (list, n) => {
      const priors = priorsOf(list, now);
      for (const code of causeCodes) expect(Math.abs(priors[code])).toBeLessThanOrEqual(1.2);
      const more = [
        ...list.slice(0, n % (list.length + 1)),
        { cause: 'lost-input', at: now },
        ...list.slice(n % (list.length + 1)),
      ];
      expect(
        priorsOf(
          more.filter((one) => one !== more[n % (list.length + 1)]),
          now,
        ),
      ).toEqual(priors);
      expect(priorsOf([...list, { cause: 'no-such-cause', at: now }], now)).toEqual(priors);
    }),
  );
});
