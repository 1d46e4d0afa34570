import fc from 'fast-check';
import { expect, it } from 'vitest';
import { clueKinds } from '../clues/register.ts';
import type { Clue } from '../clues/clue.ts';
import type { ClueCode } from '../clues/codes.ts';
import { causeCodes } from './cause.ts';
import type { CauseCode } from './cause.ts';
import { causes } from './register.ts';
import { scoreSuspects } from './score.ts';

const clue = (code: ClueCode, strength = 1): Clue => ({ code, at: 0, summary: code, strength, evidence: ['e1'] });

it('says “can’t tell” without clues, and spreads evenly', () => {
  const { suspects, undetermined } = scoreSuspects([], 'failed');
  expect(undetermined).toBe(true);
  expect(suspects).toHaveLength(25);
  expect(suspects[0]!.probability).toBeCloseTo(1 / 25, 6);
});

it.each<[CauseCode, ClueCode[]]>([
  ['replaced-element', ['held-across-replacement', 'stale-reference-told', 'replaced-after-response']],
  ['covered-target', ['press-point-covered', 'nothing-in-flight', 'target-kept-identity']],
  ['early-action', ['acted-before-arrival', 'wrong-choice-kept']],
])('leads with %s on its clues', (cause, codes) => {
  const { suspects, undetermined } = scoreSuspects(
    codes.map((code) => clue(code)),
    'failed',
  );
  expect(suspects[0]!.cause).toBe(cause);
  expect(suspects[0]!.probability).toBeGreaterThan(0.8);
  expect(undetermined).toBe(false);
});

it('doubts a passing attempt only by clues that make its passing doubtful', () => {
  const doubting = new Map(
    causes.flatMap(({ code, doubts }) => (Object.keys(doubts ?? {}) as ClueCode[]).map((clueCode) => [clueCode, code])),
  );
  const innocent = clueKinds.filter((kind) => !doubting.has(kind.code)).map((kind) => clue(kind.code));
  expect(scoreSuspects(innocent, 'passed')).toMatchObject({ undetermined: true });
  expect(scoreSuspects(innocent, 'passed').suspects[0]!.probability).toBeCloseTo(1 / 25, 6);
  for (const [code, cause] of doubting) {
    const { suspects } = scoreSuspects([clue(code)], 'passed');
    expect(suspects[0]).toMatchObject({ cause });
    expect(suspects[0]!.probability).toBeGreaterThan(0.5);
  }
});

it('never loses probability on the way', () => {
  const some = fc.array(
    fc.record({
      code: fc.constantFrom(...clueKinds.map((kind) => kind.code)),
      strength: fc.double({ min: 0, max: 1, noNaN: true }),
    }),
    { maxLength: 12 },
  );
  fc.assert(
    fc.property(some, fc.constantFrom('passed' as const, 'failed' as const), (list, outcome) => {
      const { suspects } = scoreSuspects(
        list.map(({ code, strength }) => clue(code, strength)),
        outcome,
      );
      expect(suspects.reduce((sum, suspect) => sum + suspect.probability, 0)).toBeCloseTo(1, 9);
      expect(new Set(suspects.map((suspect) => suspect.cause)).size).toBe(causeCodes.length);
      for (let i = 1; i < suspects.length; i++)
        expect(suspects[i - 1]!.probability).toBeGreaterThanOrEqual(suspects[i]!.probability);
    }),
  );
});

it('ten clues of one code are no ten reasons', () => {
  const once = scoreSuspects([clue('held-across-replacement')], 'failed').suspects[0]!.probability;
  const often = scoreSuspects(
    Array.from({ length: 10 }, () => clue('held-across-replacement')),
    'failed',
  ).suspects[0]!.probability;
  expect(often).toBe(once);
});

it('names only clues that exist', () => {
  const known = new Set(clueKinds.map((kind) => kind.code));
  for (const cause of causes)
    for (const code of [...Object.keys(cause.for), ...Object.keys(cause.against)]) expect(known).toContain(code);
});
