import { describe, expect, it } from 'vitest';
import { fisherExact } from './stats/fisher.ts';
import {
  byWorker,
  compareEnvironments,
  filterRows,
  neighbours,
  sheetRows,
  type Sheet,
  type SheetAttempt,
} from './sheet.ts';

const at = (
  test: number,
  environment: number,
  number: number,
  outcome: SheetAttempt[3],
  startedAt: number,
  worker = -1,
  family = -1,
): SheetAttempt => [
  test,
  environment,
  number,
  outcome,
  `a${test}${environment}${number}`,
  startedAt,
  100,
  family,
  worker,
  0,
];
const sheet: Sheet = {
  tests: [
    { id: 't0', suite: 'holds', title: 'holds a seat', tags: ['smoke'] },
    { id: 't1', suite: 'fares', title: 'shows the fare', tags: [] },
    { id: 't2', suite: 'fares', title: 'skips', tags: [] },
  ],
  environments: ['chromium', 'firefox'],
  families: ['f-1'],
  workers: ['w1', 'w2'],
  attempts: [
    at(0, 0, 1, 'failed', 0, 0, 0),
    at(0, 0, 2, 'passed', 100, 0),
    at(0, 1, 1, 'passed', 50, 1),
    at(1, 0, 1, 'passed', 220, 0),
    at(1, 1, 1, 'failed', 160, 1, 0),
    at(1, 1, 2, 'failed', 270, 1, 0),
    at(2, 0, 1, 'skipped', 330, 0),
  ],
};
const rows = sheetRows(sheet);
const filter = { words: '', show: 'all', tag: '', environment: '', family: '' };
const titles = (more: Partial<typeof filter>): string[] =>
  filterRows(sheet, rows, { ...filter, ...more }).map((row) => row.title);

describe('rows of the sheet', () => {
  it('tell flaky from failed, and put first what needs a look', () => {
    expect(rows.map((row) => row.standing)).toEqual(['flaky', 'failed', 'skipped']);
    expect(titles({})).toEqual(['shows the fare', 'holds a seat', 'skips']);
  });
  it('are left by each filter', () => {
    expect(titles({ words: 'FARE shows' })).toEqual(['shows the fare']);
    expect(titles({ tag: 'smoke' })).toEqual(['holds a seat']);
    expect(titles({ show: 'flaky' })).toEqual(['holds a seat']);
    expect(titles({ show: 'other' })).toEqual(['skips']);
    expect(titles({ environment: 'chromium', show: 'passed' })).toEqual(['shows the fare']);
    expect(titles({ family: 'f-1' })).toEqual(['shows the fare', 'holds a seat']);
    expect(titles({ family: 'f-none' })).toEqual([]);
  });
});

describe('environments compared', () => {
  it('count over the tests both ran, with an exact test and intervals', () => {
    const [chromium, firefox] = compareEnvironments(sheet, rows);
    expect(firefox).toMatchObject({ failed: 2, of: 3, otherFailed: 1, otherOf: 3 });
    expect(firefox!.onlyHere).toMatchObject([{ title: 'shows the fare', failed: 2, of: 2, elsewhere: 1 }]);
    expect(firefox!.onlyHere[0]!.p).toBeCloseTo(1 / 3, 6);
    expect(chromium!.rate.low).toBeLessThan(chromium!.rate.high);
  });
  it('Fisher’s test gives the published values', () => {
    expect(fisherExact(3, 4, 1, 4)).toBeCloseTo(0.4857, 4);
    expect(fisherExact(3, 3, 0, 26)).toBeCloseTo(1 / 3654, 8);
    expect(fisherExact(0, 5, 0, 5)).toBe(1);
    expect(() => fisherExact(4, 3, 0, 1)).toThrow(/4 of 3/);
  });
});

describe('order and neighbours', () => {
  it('by worker and time', () => {
    const lines = byWorker(sheet);
    expect(lines.map((line) => line.attempts.map((a) => a[4]))).toEqual([
      ['a001', 'a002', 'a101', 'a201'],
      ['a011', 'a111', 'a112'],
    ]);
    expect(neighbours(lines, 'a002')).toMatchObject({
      before: at(0, 0, 1, 'failed', 0, 0, 0),
      beside: [{ 4: 'a011' }, { 4: 'a111' }],
    });
  });
  it('without workers, overlapping attempts are laid beside each other', () => {
    const bare: Sheet = {
      ...sheet,
      workers: [],
      attempts: sheet.attempts.map((a) => [...a.slice(0, 8), -1, 0] as unknown as SheetAttempt),
    };
    expect(byWorker(bare)).toHaveLength(2);
  });
});
