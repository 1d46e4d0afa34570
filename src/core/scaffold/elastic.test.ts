import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { elasticDefaults, elasticScale, paceFor, readyMarks, trueScale } from './elastic.ts';

const mark = (at: number, needs = 0, lane = 'step') => ({ at, needs, lane });
const anyMarks = fc.array(
  fc.record({
    at: fc.double({ min: 0, max: 60_000, noNaN: true }),
    needs: fc.integer({ min: 0, max: 40 }),
    lane: fc.constantFrom('step', 'console', 'network'),
  }),
  { maxLength: 60 },
);

describe('elasticScale', () => {
  it('folds quiet time to a fixed height and says how long it was', () => {
    const scale = elasticScale([mark(0), mark(30_000), mark(30_100)], 30_100);
    expect(scale.folds).toHaveLength(1);
    expect(scale.folds[0]).toMatchObject({ from: 0, until: 30_000, height: 40 });
    expect(scale.y(30_000)).toBe(40);
  });

  it('spreads busy time so that labels of one lane have their room', () => {
    const scale = elasticScale([mark(0, 38), mark(1, 38), mark(2, 38)], 2);
    expect(scale.y(1) - scale.y(0)).toBeGreaterThanOrEqual(38);
    expect(scale.y(2) - scale.y(1)).toBeGreaterThanOrEqual(38);
    expect(scale.height).toBeGreaterThanOrEqual(3 * 38);
  });

  it('puts a fold below the labels that began before it', () => {
    const scale = elasticScale([mark(0, 38), mark(5000, 38)], 5000);
    expect(scale.folds[0]!.top).toBeGreaterThanOrEqual(38);
  });

  it('never runs backwards, keeps every lane’s room, and leads back to the time', () => {
    fc.assert(
      fc.property(anyMarks, (marks) => {
        const scale = elasticScale(marks, 60_000);
        const sorted = [...marks].sort((a, b) => a.at - b.at);
        for (let i = 1; i < sorted.length; i++)
          expect(scale.y(sorted[i]!.at)).toBeGreaterThanOrEqual(scale.y(sorted[i - 1]!.at));
        for (const lane of ['step', 'console', 'network']) {
          const own = sorted.filter((m) => m.lane === lane);
          for (let i = 1; i < own.length; i++) {
            if (own[i]!.at > own[i - 1]!.at)
              expect(scale.y(own[i]!.at) - scale.y(own[i - 1]!.at)).toBeGreaterThanOrEqual(own[i - 1]!.needs - 1e-6);
          }
        }
        for (const { at } of sorted) expect(scale.y(scale.at(scale.y(at)))).toBeCloseTo(scale.y(at), 4);
      }),
    );
  });

  it('refuses a time that is not finite', () => {
    expect(() => elasticScale([mark(Number.NaN)], 10)).toThrow(RangeError);
  });
});

it('finds the pace at which a short attempt fills the room, and never more', () => {
  const marks = [mark(0, 38), mark(100, 38), mark(250, 38)];
  const usual = elasticScale(marks, 300);
  const spread = elasticScale(marks, 300, { pxPerMs: paceFor(readyMarks(marks, 300), 600) });
  expect(spread.height).toBeGreaterThan(usual.height);
  expect(spread.height).toBeLessThanOrEqual(600);
  const long = Array.from({ length: 50 }, (_, i) => mark(i * 10, 38));
  expect(paceFor(readyMarks(long, 500), 600)).toBe(elasticDefaults.pxPerMs);
});

it('true time gives every millisecond the same', () => {
  const scale = trueScale(1000, 2);
  for (const at of [0, 1, 250, 999, 1000]) expect(scale.y(at)).toBeCloseTo(at * 2, 9);
  expect(scale.folds).toEqual([]);
});

it('gives labels less room when seen from further away', () => {
  const marks = Array.from({ length: 50 }, (_, i) => mark(i * 10, 38));
  expect(elasticScale(marks, 500, { roomShare: 0.1, pxPerMs: 0.03 }).height).toBeLessThan(
    elasticScale(marks, 500).height / 5,
  );
});
