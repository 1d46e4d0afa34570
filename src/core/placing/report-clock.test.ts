import fc from 'fast-check';
import { expect, it } from 'vitest';
import { reportShift } from './report-clock.ts';

it('finds the shift that puts most files inside their attempts', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: -100_000, max: 100_000 }),
      fc.array(fc.tuple(fc.integer({ min: 200, max: 4000 }), fc.double({ min: 0.1, max: 0.9, noNaN: true })), {
        minLength: 4,
        maxLength: 30,
      }),
      (truth, attempts) => {
        const allowed = attempts.map(([length, part]) => ({
          from: truth - length * part,
          until: truth + length * (1 - part),
        }));
        // A wrong one among them changes nothing.
        const shift = reportShift([...allowed, { from: truth + 500_000, until: truth + 500_100 }]);
        const inside = allowed.filter((one) => shift >= one.from - 1e-6 && shift <= one.until + 1e-6).length;
        if (shift !== 0) expect(inside).toBe(allowed.length);
        else expect(Math.abs(truth)).toBeLessThan(5000);
      },
    ),
  );
});
it('is not led by what was last written years away', () => {
  const years = -46 * 365 * 86_400_000;
  expect(reportShift([1, 2, 3].map((i) => ({ from: years + i, until: years + 5000 })))).toBe(0);
});
it('keeps the report’s own times when they explain as much, or too little is known', () => {
  expect(
    reportShift([
      { from: -100, until: 5000 },
      { from: -2000, until: 3000 },
    ]),
  ).toBe(0);
  expect(reportShift([{ from: 7000, until: 9000 }])).toBe(0);
  expect(
    reportShift([
      { from: 7000, until: 9000 },
      { from: -9000, until: -7000 },
      { from: 20_000, until: 21_000 },
    ]),
  ).toBe(0);
});
