import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { wilson } from './wilson.ts';

describe('wilson', () => {
  it('gives the published interval for 3 of 40', () => {
    const rate = wilson(3, 40);
    expect(rate.point).toBeCloseTo(0.075, 10);
    expect(rate.low).toBeCloseTo(0.0258, 3);
    expect(rate.high).toBeCloseTo(0.1986, 3);
  });

  it('says nothing of no trials', () => {
    expect(wilson(0, 0)).toEqual({ point: 0, low: 0, high: 1 });
  });

  it('bounds 0 of 40 by about 8.8 %', () => {
    const rate = wilson(0, 40);
    expect(rate.low).toBe(0);
    expect(rate.high).toBeCloseTo(0.0876, 3);
  });

  it('always holds the point, stays inside 0 and 1, and is the mirror of its complement', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), fc.double({ min: 0, max: 1, noNaN: true }), (trials, share) => {
        const hits = Math.round(share * trials);
        const rate = wilson(hits, trials);
        const other = wilson(trials - hits, trials);
        expect(rate.low).toBeGreaterThanOrEqual(0);
        expect(rate.high).toBeLessThanOrEqual(1);
        expect(rate.low).toBeLessThanOrEqual(rate.point);
        expect(rate.high).toBeGreaterThanOrEqual(rate.point);
        expect(rate.low).toBeCloseTo(1 - other.high, 9);
      }),
    );
  });

  it('narrows with more trials at the same rate', () => {
    const few = wilson(2, 20);
    const many = wilson(20, 200);
    expect(many.high - many.low).toBeLessThan(few.high - few.low);
  });

  it.each([
    [-1, 10],
    [11, 10],
    [0.5, 10],
    [1, 1.5],
  ])('refuses %s of %s', (hits, trials) => {
    expect(() => wilson(hits, trials)).toThrow(RangeError);
  });
});
