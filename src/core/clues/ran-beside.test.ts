import { describe, expect, it } from 'vitest';
import { analyse } from '../analyse.ts';
import { sketchOf, type Neighbours, type Sketch } from '../contrast/sketch.ts';
import type { Clue } from './clue.ts';
import { check, css, facts, step } from '../evidence/samples.ts';
import { prepare } from '../evidence/prepare.ts';

/** The same small attempt in different company. */
const events = (ok: boolean) => [
  step(0, 20, { action: 'open', command: 'navigate to', input: 'http://ferry.test/seats' }),
  step(30, 40, {
    action: 'read',
    command: 'get text',
    subject: 'text',
    locator: css('#seat'),
    result: ok ? 'held' : 'sold',
  }),
  check(45, ok, 'held', ok ? 'held' : 'sold'),
];
let count = 0;
const sketchIn = (ok: boolean, neighbours?: Neighbours): Sketch =>
  sketchOf(prepare(events(ok), facts(ok ? 'passed' : 'failed', ok ? '' : 'expected "held" but got "sold"')), {
    id: `s${++count}`,
    startedAt: count,
    ...(neighbours ? { neighbours } : {}),
  });
const found = (own: Neighbours | undefined, kin: Sketch[], passing: Sketch[]): Clue | undefined =>
  analyse(events(false), facts('failed', 'expected "held" but got "sold"'), {
    id: 'own',
    startedAt: 0,
    passing,
    kin: () => kin,
    ...(own ? { neighbours: own } : {}),
  }).clues.find(({ code }) => code === 'ran-beside');
const many = (n: number, ok: boolean, of: (i: number) => Neighbours | undefined): Sketch[] =>
  Array.from({ length: n }, (_, i) => sketchIn(ok, of(i)));

describe('another test that ran beside', () => {
  const taking = { beside: ['takes seat 12A'] };
  const alone = (i: number) => ({ beside: i % 2 ? ['shows the harbour'] : [] });

  it('is told when it was there in all that failed and in none that passed', () => {
    const clue = found(
      taking,
      many(5, false, () => taking),
      many(9, true, alone),
    );
    expect(clue!.summary).toBe(
      'It ran beside “takes seat 12A”, as 6 of 6 that failed did, and in 0 of 9 passing attempts',
    );
    expect(clue!.evidence.length).toBeGreaterThan(0);
  });

  it('and so is one that ran right before', () => {
    const after = { beside: [], after: 'empties the basket' };
    const clue = found(
      after,
      many(5, false, () => after),
      many(9, true, (i) => ({ beside: [], after: `test ${i}` })),
    );
    expect(clue!.summary).toContain('It ran right after “empties the basket”');
  });

  it('is not told of one failing attempt alone, in whatever company', () => {
    expect(found(taking, [], many(16, true, alone))).toBeUndefined();
  });

  it('is not told when passing attempts kept the same company', () => {
    expect(
      found(
        taking,
        many(5, false, () => taking),
        many(9, true, () => taking),
      ),
    ).toBeUndefined();
  });

  it('is not told where nobody can know', () => {
    expect(
      found(
        undefined,
        many(5, false, () => undefined),
        many(9, true, alone),
      ),
    ).toBeUndefined();
    expect(
      found(
        taking,
        many(5, false, () => taking),
        many(9, true, () => undefined),
      ),
    ).toBeUndefined();
  });

  it('is not told of company drawn by lot (for many draws)', () => {
    const tests = Array.from({ length: 12 }, (_, i) => `test ${i}`);
    let told = 0;
    for (let seed = 0; seed < 60; seed++) {
      let state = seed * 2654435761 + 1;
      const draw = (): Neighbours => ({
        beside: tests.filter(() => ((state = (Math.imul(state, 1664525) + 1013904223) >>> 0), state / 2 ** 32 < 0.4)),
      });
      if (found(draw(), many(4, false, draw), many(8, true, draw))) told++;
    }
    expect(told).toBeLessThanOrEqual(3);
  });
});
