import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { benjaminiHochberg } from './benjamini-hochberg.ts';
import { mannWhitney } from './mann-whitney.ts';

describe('Mann–Whitney', () => {
  it('agrees with a worked example', () => {
    // 7 against 7, U = 5: the tables put p between 0.01 and 0.02 two-sided.
    const { p } = mannWhitney([1, 2, 3, 4, 6, 7, 10], [5, 8, 9, 11, 12, 13, 14]);
    expect(p).toBeGreaterThan(0.005);
    expect(p).toBeLessThan(0.03);
  });

  it('does not care which group is first, nor about a change of scale', () => {
    const numbers = fc.array(fc.integer({ min: -50, max: 50 }), { minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(numbers, numbers, (a, b) => {
        const one = mannWhitney(a, b);
        const other = mannWhitney(b, a);
        expect(one.p).toBeCloseTo(other.p, 9);
        expect(one.share + other.share).toBeCloseTo(1, 9);
        const scaled = mannWhitney(
          a.map((x) => x * 3 + 7),
          b.map((x) => x * 3 + 7),
        );
        expect(scaled.p).toBeCloseTo(one.p, 9);
        expect(one.p).toBeGreaterThanOrEqual(0);
        expect(one.p).toBeLessThanOrEqual(1);
      }),
    );
  });

  it('finds nothing in groups that are the same, and says nothing of empty ones', () => {
    expect(mannWhitney([4, 4, 4], [4, 4]).p).toBe(1);
    expect(mannWhitney([], [1])).toEqual({ p: 1, share: 0.5 });
  });
});

describe('Benjamini–Hochberg', () => {
  it('gives the values of a worked example', () => {
    const q = benjaminiHochberg([0.01, 0.04, 0.03, 0.2]);
    [0.04, 0.0533333, 0.0533333, 0.2].forEach((value, i) => expect(q[i]).toBeCloseTo(value, 6));
  });

  it('keeps the order of the p-values, and is never below them', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { maxLength: 60 }), (ps) => {
        const qs = benjaminiHochberg(ps);
        qs.forEach((q, i) => {
          expect(q).toBeGreaterThanOrEqual(ps[i]! - 1e-12);
          expect(q).toBeLessThanOrEqual(1);
          ps.forEach((p, j) => {
            if (p < ps[i]!) expect(qs[j]!).toBeLessThanOrEqual(q + 1e-12);
          });
        });
      }),
    );
  });
});
