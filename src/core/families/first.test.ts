import { expect, it } from 'vitest';
import type { RunFamily } from '../records.ts';
import { foldFamilies } from './first.ts';
import { verdictOf } from './verdict.ts';

const family = (id: string, more: Partial<RunFamily> = {}): RunFamily => ({
  id,
  sentence: id,
  tests: 1,
  environments: 1,
  count: 1,
  attempts: [],
  allFlaky: false,
  leading: null,
  since: 'known',
  lastSeen: null,
  runs: 2,
  verdict: verdictOf([]),
  ...more,
});
const settled = { verdict: { ...verdictOf([]), confirmed: 'early-check' as const } };

it('shows what needs somebody first, and folds and counts the rest', () => {
  const all = [
    ...Array.from({ length: 46 }, (_, i) => family(`settled ${i}`, { ...settled, count: 2 })),
    family('known', { count: 9 }),
    family('returned', { since: 'returned' }),
    family('new', { since: 'new' }),
    family('back', {
      verdict: { ...verdictOf([]), cameBack: { at: 1, attempt: 'a', run: 'r', runId: 'r', commit: null } },
    }),
  ];
  const { shown, folded, words } = foldFamilies(all, 3, 0);
  expect(shown.map(({ id }) => id)).toEqual(['back', 'new', 'returned']);
  expect(folded).toHaveLength(47);
  expect(words).toBe('47 more families with 101 failures: 1 awaits a verdict');
  expect(foldFamilies(all, 4, 0).words).toBe('46 more families with 92 failures: all have their verdict');
});

it('folds nothing where it would hide but one or two', () => {
  const all = Array.from({ length: 6 }, (_, i) => family(`${i}`));
  expect(foldFamilies(all, 4, 0)).toMatchObject({ folded: [], words: '' });
  expect(foldFamilies(all, 3, 0).folded).toHaveLength(3);
});
