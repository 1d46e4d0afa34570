import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shiftBetween } from './hodges-lehmann.ts';
import { seeded } from './seeded.ts';

describe('the shift between two groups', () => {
  it('is the median of the differences, and is not moved by one that is far off', () => {
    expect(shiftBetween([1, 2, 3], [11, 12, 13])).toEqual({ point: 10, low: 8, high: 12 });
    expect(shiftBetween([100, 101, 102, 103, 9000], [140, 141, 142, 143, 144])!.point).toBe(40);
    expect(shiftBetween([], [1])).toBeUndefined();
  });

  it('moves with either group, and turns with their order', () => {
    const values = fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 20 });
    fc.assert(
      fc.property(values, values, fc.integer({ min: -500, max: 500 }), (a, b, by) => {
        const shift = shiftBetween(a, b)!;
        expect(shift.low).toBeLessThanOrEqual(shift.point);
        expect(shift.high).toBeGreaterThanOrEqual(shift.point);
        const moved = shiftBetween(
          a,
          b.map((value) => value + by),
        )!;
        expect(moved.point).toBeCloseTo(shift.point + by, 6);
        const back = shiftBetween(b, a)!;
        expect(back.point).toBeCloseTo(-shift.point, 6);
        expect(back.low).toBeCloseTo(-shift.high, 6);
      }),
    );
  });

  it('holds the true shift in about 95 of 100 samples', () => {
    const random = seeded(7);
    let held = 0;
    for (let i = 0; i < 400; i++) {
      const draw = (by: number) => Array.from({ length: 10 }, () => by + 300 * (random() + random() + random()));
      const { low, high } = shiftBetween(draw(0), draw(80))!;
      if (low <= 80 && 80 <= high) held++;
    }
    expect(held).toBeGreaterThan(360);
    expect(held).toBeLessThan(400);
  });
});
