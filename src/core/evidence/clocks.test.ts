import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fitClock, pairEvents } from './clocks.ts';

describe('fitting one clock to another', () => {
  it('finds offset and uncertainty in spite of wrong pairs', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1e6, max: 1e6 }),
        fc.array(fc.tuple(fc.integer({ min: 0, max: 30_000 }), fc.integer({ min: -8, max: 8 })), {
          minLength: 9,
          maxLength: 40,
        }),
        (offset, events) => {
          const pairs = events.map(([at, scatter], i) => ({
            source: at,
            target: at + offset + (i % 4 === 3 ? 5000 + at : scatter),
          }));
          const fit = fitClock(pairs)!;
          expect(Math.abs(fit.offset - offset)).toBeLessThanOrEqual(12);
          expect(fit.used).toBeGreaterThanOrEqual(Math.floor(events.length / 2));
        },
      ),
    );
  });
  it('finds a drift over minutes and claims none over seconds', () => {
    const pairs = Array.from({ length: 40 }, (_, i) => ({ source: i * 10_000, target: i * 10_000 * 1.0002 + 500 }));
    const fit = fitClock(pairs)!;
    expect(fit.drift).toBeCloseTo(0.0002, 6);
    expect(fit.offset).toBeCloseTo(500, 1);
    expect(fitClock(pairs.slice(0, 4))!.drift).toBe(0);
  });
  it('is unsure of a single pair, and knows nothing of none', () => {
    expect(fitClock([{ source: 1, target: 3 }])).toMatchObject({ offset: 2, within: 1000 });
    expect(fitClock([])).toBeUndefined();
  });
});

describe('pairs of the same event', () => {
  it('are those most offsets agree on', () => {
    const source = [1000, 1500, 2600, 4000].map((at, i) => ({ key: `k${i % 3}`, at }));
    const target = [
      ...source.map(({ key, at }) => ({ key, at: at + 7200 })),
      { key: 'k0', at: 100 },
      { key: 'k1', at: 50_000 },
    ];
    const fit = fitClock(pairEvents(source, target))!;
    expect(fit.offset).toBe(7200);
    expect(fit.used).toBe(4);
  });
  it('are none when nothing is shared', () =>
    expect(pairEvents([{ key: 'a', at: 1 }], [{ key: 'b', at: 1 }])).toEqual([]));
});
