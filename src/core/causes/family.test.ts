import { describe, expect, it } from 'vitest';
import type { Clue } from '../clues/clue.ts';
import type { ClueCode } from '../clues/codes.ts';
import { causeCodes, type CauseCode } from './cause.ts';
import { poolSuspects, type Voice } from './family.ts';

const clue = (code: ClueCode, strength: number, at = 10): Clue => ({
  code,
  at,
  summary: code,
  strength,
  evidence: ['e1'],
});
/** One attempt that gives a cause so much, and the rest in equal parts to all others. */
const voice = (attempt: string, cause: CauseCode, probability: number, clues: Clue[] = []): Voice => ({
  attempt,
  suspects: causeCodes.map((code) => ({
    cause: code,
    probability: code === cause ? probability : (1 - probability) / (causeCodes.length - 1),
    for: code === cause ? clues : [],
    against: [],
  })),
});
const sum = (list: readonly { probability: number }[]): number => list.reduce((all, one) => all + one.probability, 0);

describe('a family of attempts', () => {
  it('says what its only attempt says', () => {
    const [first, ...rest] = poolSuspects([voice('a', 'early-check', 0.7, [clue('size-differs', 1)])]);
    expect(first).toMatchObject({ cause: 'early-check', for: [{ attempt: 'a', found: [1, 1] }] });
    expect(first!.probability).toBeCloseTo(0.7, 3);
    expect(sum([first!, ...rest])).toBeCloseTo(1, 9);
  });

  it('grows surer as more attempts say the same, and never certain', () => {
    const sure = [1, 2, 4, 16, 64].map(
      (n) => poolSuspects(Array.from({ length: n }, (_, i) => voice(`a${i}`, 'lost-input', 0.6)))[0]!.probability,
    );
    expect(sure).toEqual([...sure].sort((a, b) => a - b));
    expect(sure[4]).toBeLessThan(1);
    expect(sure[2]).toBeGreaterThan(sure[0]! + 0.1);
  });

  it('is not carried away by one attempt that says something else', () => {
    const voices = [
      voice('odd', 'starved-machine', 0.95),
      ...Array.from({ length: 5 }, (_, i) => voice(`a${i}`, 'early-action', 0.8)),
    ];
    const [first, second] = poolSuspects(voices);
    expect(first!.cause).toBe('early-action');
    expect(second!.cause).toBe('starved-machine');
  });

  it('stays in doubt where its attempts do not agree', () => {
    const voices = [voice('a', 'early-action', 0.8), voice('b', 'early-check', 0.8)];
    const [first, second] = poolSuspects(voices);
    expect(first!.probability).toBeCloseTo(second!.probability, 9);
    expect(first!.probability).toBeLessThan(0.55);
  });

  it('tells each clue once, by its strongest instance, with how many attempts show it', () => {
    const voices = [
      voice('a', 'early-action', 0.8, [clue('size-differs', 0.5), clue('odd-input', 1)]),
      voice('b', 'early-action', 0.8, [clue('size-differs', 0.9, 77)]),
      voice('c', 'early-action', 0.8, [clue('size-differs', 0.7)]),
    ];
    expect(poolSuspects(voices)[0]!.for.map(({ code, attempt, found, at }) => [code, attempt, found, at])).toEqual([
      ['size-differs', 'b', [3, 3], 77],
      ['odd-input', 'a', [1, 3], 10],
    ]);
  });

  it('is the same whatever order its attempts come in', () => {
    const voices = [voice('a', 'early-action', 0.8), voice('b', 'lost-input', 0.5), voice('c', 'early-action', 0.4)];
    const told = (list: Voice[]) => poolSuspects(list).map(({ cause, probability }) => [cause, probability.toFixed(9)]);
    expect(told([...voices].reverse())).toEqual(told(voices));
  });

  it('says nothing without attempts that say something', () => {
    expect(poolSuspects([])).toEqual([]);
    expect(poolSuspects([{ attempt: 'a', suspects: [] }])).toEqual([]);
  });
});
