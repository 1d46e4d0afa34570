import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { doubtOf } from './doubt.ts';
import type { Place } from './loose.ts';
import type { Match } from './place.ts';
import { coversMany, spansMany } from './share-out.ts';
import { spacing } from './summed-gaps.ts';

const tests = (
  count: number,
  length = 10_000,
  gap = 500,
): { id: string; from: number; until: number; timed: boolean }[] =>
  Array.from({ length: count }, (_, i) => ({
    id: `t${i}`,
    from: i * (length + gap),
    until: i * (length + gap) + length,
    timed: true,
  }));
const every = (from: number, until: number, step: number): number[] =>
  Array.from({ length: Math.floor((until - from) / step) + 1 }, (_, i) => from + i * step);

describe('what is shared out', () => {
  it('is what has its entries in several tests, one after the other', () => {
    expect(coversMany(every(0, 31_000, 700), tests(3))).toBe(true);
    expect(coversMany(every(500, 9500, 700), tests(3))).toBe(false);
  });
  it('is not what only ends in the next', () => {
    expect(coversMany([...every(200, 9900, 300), 10_700], tests(3))).toBe(false);
  });
  it('is not what is of two tests that ran side by side', () => {
    const beside = [
      { id: 'a', from: 0, until: 10_000, timed: true },
      { id: 'b', from: 200, until: 10_100, timed: true },
    ];
    expect(coversMany(every(300, 9900, 300), beside)).toBe(false);
  });
  it('takes a recording for one test’s that only begins early and ends late', () => {
    const short = tests(3, 2500, 100);
    expect(spansMany({ from: -300, until: 2900 }, short)).toBe(false);
    expect(spansMany({ from: -300, until: 8200 }, short)).toBe(true);
  });
});

describe('tests whose times a report added up', () => {
  it('are set apart by what the files show', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 3000, max: 9000 }), fc.integer({ min: 50, max: 900 })), {
          minLength: 3,
          maxLength: 12,
        }),
        (drawn) => {
          let really = 1000;
          let told = 1000;
          const places: { from: number; until: number }[] = [];
          const spans: { from: number; until: number }[] = [];
          const shifts: number[] = [];
          for (const [length, gap] of drawn) {
            places.push({ from: told, until: told + length });
            shifts.push(really - told);
            spans.push({ from: really + 40, until: really + length - 40 });
            told += length;
            really += length + gap;
          }
          const found = spacing(spans, places, 0)!;
          shifts.forEach((shift, i) => expect(Math.abs(found[i]!.by - shift)).toBeLessThan(150));
        },
      ),
      { numRuns: 25 },
    );
  });
  it('are set apart also where very many pictures lie in one', () => {
    const places = [
      { from: 0, until: 10_000 },
      { from: 10_000, until: 20_000 },
    ];
    const pictures = every(10_600, 20_400, 10).map((at) => ({ from: at, until: at }));
    const [, second] = spacing(pictures, places, 0)!;
    expect(second!.by).toBeGreaterThanOrEqual(400);
    expect(second!.by).toBeLessThanOrEqual(600);
  });
  it('stay where the report has them while too little is known', () => {
    expect(spacing([{ from: 0, until: 10 }], tests(4), 0)).toBeUndefined();
    expect(spacing([], tests(1), 0)).toBeUndefined();
  });
});

describe('why a file waits', () => {
  const place = (id: string, more: Partial<Place> = {}): Place => ({
    id,
    suite: 'counter',
    title: `test ${id}`,
    number: 1,
    environment: { browser: 'chromium' },
    from: 0,
    until: 10_000,
    timed: true,
    failed: false,
    attachments: [],
    addresses: [],
    ...more,
  });
  const match = (id: string, score: number): Match => ({ place: id, score, reasons: ['x'], named: false });
  const span = { from: 4000, until: 4000 };
  const [a, b] = [place('a'), place('b', { from: 500, until: 9000 })];
  const even = [match('a', 0.5), match('b', 0.5)];
  it.each([
    ['no-time', { matches: [] }, [a, b]],
    ['no-times-in-report', { matches: [] }, [place('a', { timed: false })]],
    ['outside', { matches: [], span: { from: 9e6, until: 9e6 } }, [a, b]],
    ['zone', { matches: [], zone: { minutes: 60, others: [] } }, [a, b]],
    ['parallel', { matches: even, span }, [a, b]],
    [
      'between',
      { matches: even, span: { from: 10_050, until: 10_050 } },
      [a, place('b', { from: 10_100, until: 20_000 })],
    ],
    ['tries', { matches: even }, [a, place('b', { title: 'test a', number: 2 })]],
    ['other-browser', { matches: even }, [a, place('b', { title: 'test a', environment: { browser: 'firefox' } })]],
    ['rivals', { matches: even }, [a, b]],
    ['little', { matches: [match('a', 0.7)] }, [a, b]],
  ] as const)('%s', (kind, doubted, places) => {
    const doubt = doubtOf(doubted, [...places], (id) => `“test ${id}”`);
    expect(doubt.kind).toBe(kind);
    expect(doubt.settles.length).toBeGreaterThan(20);
  });
});
