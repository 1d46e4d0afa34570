import fc from 'fast-check';
import { expect, it } from 'vitest';
import { median } from './median.ts';

it('takes the middle, or the mean of the two middle ones', () => {
  expect(median([3, 1, 2])).toBe(2);
  expect(median([4, 1, 2, 3])).toBe(2.5);
});

it('has as many values above as below, and leaves its input alone', () => {
  fc.assert(
    fc.property(fc.array(fc.integer(), { minLength: 1 }), (values) => {
      const before = [...values];
      const middle = median(values);
      expect(values).toEqual(before);
      expect(values.filter((v) => v < middle).length).toBeLessThanOrEqual(values.length / 2);
      expect(values.filter((v) => v > middle).length).toBeLessThanOrEqual(values.length / 2);
    }),
  );
});

it('refuses an empty list', () => {
  expect(() => median([])).toThrow(RangeError);
});
