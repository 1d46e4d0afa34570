import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dayMs, isOver, levels, termOf, type Keeping, type KeepingTerm, type KeptAttempt } from './keeping.ts';
import { baselineKept, planKeeping } from './plan.ts';
import { planWords } from './words.ts';

const now = 100 * dayMs;
const one = (id: string, more: Partial<KeptAttempt> = {}): KeptAttempt => ({
  id,
  outcome: 'passed',
  trial: false,
  place: 'holds chromium',
  run: 'nightly-1',
  branch: 'main',
  startedAt: now - dayMs,
  pinned: false,
  level: levels.whole,
  bytes: 1000,
  pictures: [],
  others: [],
  ...more,
});
const term = (more: Partial<KeepingTerm> = {}): KeepingTerm => ({
  run: '',
  branch: '',
  failing: { pictures: null, rest: null },
  passing: { pictures: null, rest: null, oneIn: 1 },
  ...more,
});
const plan = (keeping: Partial<Keeping>, attempts: KeptAttempt[], size = 10, total = 1e6) =>
  planKeeping({ terms: [], budgetGb: null, ...keeping }, attempts, () => size, total, now);
const told = (...args: Parameters<typeof plan>) =>
  plan(...args).letGo.map(({ attempt, to, why }) => [attempt, to, why]);

describe('what is let go of', () => {
  it('is nothing where nobody said so', () => {
    expect(told({}, [one('a'), one('b', { outcome: 'failed', startedAt: 0 })])).toEqual([]);
  });

  it('goes by age, pictures before the rest, by the first term that fits the run', () => {
    const nightly = term({
      run: 'nightly',
      passing: { pictures: 7, rest: 30, oneIn: 1 },
      failing: { pictures: 30, rest: null },
    });
    const attempts = [
      one('new', { startedAt: now - 6 * dayMs }),
      one('old', { startedAt: now - 8 * dayMs }),
      one('older', { startedAt: now - 31 * dayMs }),
      one('failed', { outcome: 'failed', startedAt: now - 31 * dayMs }),
      one('other', { run: 'by hand', startedAt: 0 }),
      one('pinned', { pinned: true, startedAt: 0 }),
    ];
    expect(told({ terms: [nightly] }, attempts).sort()).toEqual([
      ['failed', levels.noPictures, 'term'],
      ['old', levels.noPictures, 'term'],
      ['older', levels.findings, 'term'],
    ]);
    expect(termOf([term({ branch: 'release' }), nightly], 'nightly-3', 'main')).toBe(nightly);
    expect(isOver(null, 0, now)).toBe(false);
  });

  it('keeps the pictures of one in so many that passed, and of the newest', () => {
    const attempts = Array.from({ length: 12 }, (_, i) => one(`a${i}`, { startedAt: now - (12 - i) * 1000 }));
    const kept = term({ passing: { pictures: null, rest: null, oneIn: 4 } });
    expect(told({ terms: [kept] }, attempts).map(([id]) => id)).toEqual(['a1', 'a2', 'a3', 'a5', 'a6', 'a7']);
  });

  it('for the budget: trials first, then what passed and has newer ones like it, at last the newest; never what failed', () => {
    const attempts = [
      one('failed', { outcome: 'failed', startedAt: 1, pictures: [1] }),
      ...Array.from({ length: baselineKept + 1 }, (_, i) => one(`p${i}`, { startedAt: 10 + i, pictures: [10 + i] })),
      one('trial', { trial: true, outcome: 'failed', startedAt: 99, pictures: [99] }),
    ];
    const order = told({ budgetGb: 0 }, attempts).map(([id, to]) => `${id} ${to}`);
    expect(order).toEqual(['trial 1', 'trial 0', 'p0 1', 'p0 0', ...['p1 1', 'p2 1', 'p3 1', 'p1 0', 'p2 0', 'p3 0']]);
    const { short, counts } = plan({ budgetGb: 0 }, attempts, 10, 1e6);
    expect(short).toBeGreaterThan(0);
    expect(counts.failingInTerm).toBe(1);
    // Past its term a failing one may go, and goes before the newest that passed.
    const over = term({ failing: { pictures: null, rest: 10 } });
    expect(told({ budgetGb: 0, terms: [over] }, attempts)[0]).toEqual(['failed', levels.findings, 'term']);
  });

  it('counts a file that several show once, and as free when the last of them lets go of it', () => {
    const attempts = [one('a', { pictures: [1, 2], startedAt: 0 }), one('b', { pictures: [2, 3] })];
    const first = plan({ terms: [term({ passing: { pictures: 10, rest: null, oneIn: 1 } })] }, attempts, 100, 1000);
    expect([first.before, first.after]).toEqual([1000, 900]);
    const both = plan({ terms: [term({ passing: { pictures: 0, rest: null, oneIn: 1 } })] }, attempts, 100, 1000);
    expect(both.after).toBe(700);
  });

  it('is told in words, with what has to stay', () => {
    const attempts = [one('a', { pictures: [1] }), one('f', { outcome: 'failed' }), one('p', { pinned: true })];
    expect(planWords(plan({}, attempts))).toEqual([
      'Nothing would be let go of; the folder takes 1.0 MB',
      '1 pinned and 1 that failed within their term stay whole',
    ]);
    const words = planWords(plan({ budgetGb: 1 }, attempts, 2e9, 9e9));
    expect(words[0]).toBe('Pictures of 1 and the rest of 1 attempt would be let go of: 2.0 GB of 9.0 GB');
    expect(words[2]).toMatch(/^The budget would be missed by 6.0 GB/);
  });
});

const anyAttempt = fc.record({
  outcome: fc.constantFrom('passed' as const, 'failed' as const, 'errored' as const, 'interrupted' as const),
  trial: fc.boolean(),
  place: fc.constantFrom('a', 'b'),
  run: fc.constantFrom('nightly-1', 'by hand'),
  branch: fc.constantFrom('main', ''),
  startedAt: fc.integer({ min: 0, max: 100 }).map((days) => days * dayMs),
  pinned: fc.boolean(),
  level: fc.constantFrom(levels.whole, levels.noPictures, levels.findings),
  bytes: fc.integer({ min: 0, max: 500 }),
  pictures: fc.uniqueArray(fc.integer({ min: 0, max: 9 }), { maxLength: 4 }),
  others: fc.uniqueArray(fc.integer({ min: 10, max: 14 }), { maxLength: 2 }),
});
const anyDays = fc.option(fc.integer({ min: 0, max: 100 }));
const anyKeeping: fc.Arbitrary<Keeping> = fc.record({
  terms: fc.array(
    fc.record({
      run: fc.constantFrom('', 'nightly'),
      branch: fc.constantFrom('', 'main'),
      failing: fc.record({ pictures: anyDays, rest: anyDays }),
      passing: fc.record({ pictures: anyDays, rest: anyDays, oneIn: fc.integer({ min: 1, max: 4 }) }),
    }),
    { maxLength: 2 },
  ),
  budgetGb: fc.option(fc.integer({ min: 0, max: 3000 }).map((bytes) => bytes / 1e9)),
});

it('whatever the rules: nothing pinned or failing within its term goes, what is told is what comes, and the budget is met where it can be', () => {
  fc.assert(
    fc.property(anyKeeping, fc.array(anyAttempt, { maxLength: 15 }), (keeping, list) => {
      const attempts = list.map((some, i): KeptAttempt => ({ id: `a${i}`, ...some }));
      const used = (level: (one: KeptAttempt) => number): number => {
        const files = new Set<number>();
        let bytes = 0;
        for (const some of attempts) {
          if (level(some) === levels.whole) some.pictures.forEach((file) => files.add(file));
          if (level(some) >= levels.noPictures) some.others.forEach((file) => files.add(file));
          if (level(some) >= levels.noPictures) bytes += some.bytes * 1.3;
        }
        return files.size * 100 + bytes;
      };
      const total = used(({ level }) => level);
      const done = planKeeping(keeping, attempts, () => 100, total, now);
      const after = new Map(attempts.map(({ id, level }) => [id, level]));
      for (const { attempt, to } of done.letGo) {
        expect(to).toBeLessThan(after.get(attempt)!);
        after.set(attempt, to);
      }
      for (const some of attempts) {
        if (some.pinned) expect(after.get(some.id)).toBe(some.level);
        const rest = termOf(keeping.terms, some.run, some.branch)?.failing.rest ?? null;
        const failed = some.outcome === 'failed' || some.outcome === 'errored';
        if (failed && !some.trial && !isOver(rest, some.startedAt, now) && some.level > levels.findings)
          expect(after.get(some.id)).not.toBe(levels.findings);
      }
      expect(done.after).toBeCloseTo(
        used(({ id }) => after.get(id)!),
        6,
      );
      if (keeping.budgetGb !== null)
        expect(done.short).toBeCloseTo(Math.max(0, done.after - keeping.budgetGb * 1e9), 6);
      // Missed only where nothing that may go is left.
      if (done.short > 1e-6)
        for (const some of attempts) {
          const rest = termOf(keeping.terms, some.run, some.branch)?.failing.rest ?? null;
          const failed = some.outcome === 'failed' || some.outcome === 'errored';
          const stays = some.pinned || (failed && !some.trial && !isOver(rest, some.startedAt, now));
          if (!stays) expect(after.get(some.id)).toBe(levels.findings);
        }
    }),
  );
});
