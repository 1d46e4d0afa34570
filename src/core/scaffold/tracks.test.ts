import fc from 'fast-check';
import { expect, it } from 'vitest';
import { labelsThatFit, tracksOf } from './tracks.ts';

it('bars that overlap stand beside each other, others share a track', () => {
  expect(
    tracksOf([
      { top: 0, height: 50 },
      { top: 10, height: 10 },
      { top: 60, height: 10 },
    ]),
  ).toEqual([0, 1, 0]);
});

it('never lets two bars of one track touch', () => {
  const bars = fc.array(fc.record({ top: fc.integer({ min: 0, max: 500 }), height: fc.integer({ min: 1, max: 80 }) }), {
    maxLength: 40,
  });
  fc.assert(
    fc.property(bars, (list) => {
      const sorted = [...list].sort((a, b) => a.top - b.top);
      const tracks = tracksOf(sorted);
      sorted.forEach((a, i) =>
        sorted
          .slice(i + 1)
          .forEach((b, j) => tracks[i] === tracks[i + 1 + j] && expect(a.top + a.height).toBeLessThanOrEqual(b.top)),
      );
    }),
  );
});

it('labels give way, the earlier one stays; none touches an obstacle', () => {
  const label = { left: 0, top: 0, width: 40, height: 12 };
  expect(labelsThatFit([label, { ...label, top: 6 }, { ...label, top: 12 }])).toEqual([true, false, true]);
  expect(labelsThatFit([label], [{ left: 30, top: 5, width: 8, height: 100 }])).toEqual([false]);
});
