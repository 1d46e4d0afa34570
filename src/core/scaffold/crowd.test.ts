import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { binnedScale, binsOf, countBetween, densityOf, lowerBound, poleOf, stopsOf, type Stops } from './crowd.ts';
import { element, exchange, line, step } from '../evidence/samples.ts';

const times = fc.array(fc.double({ min: 0, max: 60_000, noNaN: true }), { minLength: 1, maxLength: 400 });
const sorted = (list: number[]): number[] => [...list].sort((a, b) => a - b);

describe('the scale from times alone', () => {
  it('rises with time, and is undone by its inverse', () => {
    fc.assert(
      fc.property(times, times, fc.integer({ min: 1, max: 300 }), (steps, lines, most) => {
        const stops: Stops = { step: sorted(steps), console: sorted(lines) };
        const scale = binnedScale(binsOf(stops, 60_000, most));
        let before = -1;
        for (const at of sorted([...steps, ...lines])) {
          const y = scale.y(at);
          expect(y).toBeGreaterThanOrEqual(before - 1e-9);
          expect(scale.y(scale.at(y))).toBeCloseTo(y, 4);
          before = y;
        }
        expect(scale.height).toBeGreaterThanOrEqual(scale.y(60_000));
      }),
    );
  });

  it('folds silences and gives a crowd the room it asks for', () => {
    const crowd = Array.from({ length: 100 }, (_, i) => 5000 + i);
    const scale = binnedScale(binsOf({ console: crowd }, 10_000, 50));
    expect(scale.folds.map(({ from, until }) => [Math.round(from), Math.round(until)])).toEqual([
      [0, 5000],
      [5099, 10_000],
    ]);
    expect(scale.y(5099) - scale.y(5000)).toBeGreaterThan(95 * 17);
  });

  it('seen from further away everything is nearer together', () => {
    const bins = binsOf({ console: Array.from({ length: 5000 }, (_, i) => i * 2) }, 10_000);
    expect(binnedScale(bins, { roomShare: 0.01, pxPerMs: 0.003 }).height).toBeLessThan(binnedScale(bins).height / 50);
  });
});

it('counts what lies between two times', () => {
  fc.assert(
    fc.property(
      times,
      fc.double({ min: 0, max: 60_000, noNaN: true }),
      fc.double({ min: 0, max: 60_000, noNaN: true }),
      (list, a, b) => {
        const all = sorted(list);
        const [from, until] = a < b ? [a, b] : [b, a];
        expect(countBetween(all, from, until)).toBe(all.filter((at) => at >= from && at < until).length);
        expect(lowerBound(all, from)).toBe(all.filter((at) => at < from).length);
      },
    ),
  );
});

it('a summary loses nothing that lies in sight', () => {
  const all = Array.from({ length: 3000 }, (_, i) => i * 3.3);
  const scale = binnedScale(binsOf({ network: all }, 10_000), { roomShare: 0.02, pxPerMs: 0.02 });
  const rows = densityOf(all, scale, 0, scale.height + 6);
  expect(rows.reduce((sum, { count }) => sum + count, 0)).toBe(3000);
});

it('knows the pole of every event, and leaves out boxes that merely moved', () => {
  const events = [
    step(0, 5, { action: 'press' }),
    exchange(1, 2, { url: 'http://ferry.test/' }),
    element(3, 'moved', 'css=#a', { node: 1 }),
    element(4, 'appeared', 'css=#a', { node: 1 }),
    line(2, 'sea state 3'),
  ];
  expect(stopsOf(events)).toEqual({ step: [0], network: [1], element: [4], console: [2] });
  expect(poleOf('console', 'exception')).toBe('exception');
});
