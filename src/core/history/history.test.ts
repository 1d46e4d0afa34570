import { describe, expect, it } from 'vitest';
import { median } from '../stats/median.ts';
import { seeded } from '../stats/seeded.ts';
import { wilson } from '../stats/wilson.ts';
import { changesOf } from './changes.ts';
import { mendFirst } from './mend-first.ts';
import { pointsOf } from './points.ts';
import { testHistory, type RunName } from './test-history.ts';
import { failedSo, testRunsOf, type PastAttempt } from './test-runs.ts';

const quiet = 0.01;
const often = 0.3;
const drawn = (random: () => number, runs: number, rate: (run: number) => number): boolean[] =>
  Array.from({ length: runs }, (_, run) => random() < rate(run));

/** Who knows both rates and when to begin: cumulative sums, with bounds at which a steady rate is called changed once in 1,000 runs. */
function perfect(happened: boolean[], from: number, p0: number, p1: number, bound: number): number {
  let sum = 0;
  for (let i = from; i < happened.length; i++) {
    sum = Math.max(0, sum + (happened[i] ? Math.log(p1 / p0) : Math.log((1 - p1) / (1 - p0))));
    if (sum >= bound) return i;
  }
  return happened.length;
}

describe('a change of rate', () => {
  it('is found within three runs of when somebody could who knows both rates; 400 runs, from 1 to 30 % and back', () => {
    const random = seeded(41);
    const late: number[] = [];
    for (let change = 0; change < 120; change++) {
      const happened = drawn(random, 400, (run) => (run >= 150 && run < 250 ? often : quiet));
      const changes = changesOf(happened);
      const [up, back] = [
        changes.find(({ toldAt, before, after }) => toldAt >= 150 && after[0] / after[1] > before[0] / before[1]),
        changes.find(({ toldAt, before, after }) => toldAt >= 250 && after[0] / after[1] < before[0] / before[1]),
      ];
      late.push((up?.toldAt ?? 400) - perfect(happened, 150, quiet, often, 3.402));
      late.push((back?.toldAt ?? 400) - perfect(happened, 250, often, quiet, 5.264));
    }
    expect(median(late)).toBeLessThanOrEqual(3);
    expect(late.filter((runs) => runs <= 3).length / late.length).toBeGreaterThan(0.65);
  });

  it('is told of a steady test less than once or twice in a thousand runs, whatever its rate', () => {
    for (const [rate, most] of [
      [0.002, 1],
      [0.01, 1.3],
      [0.1, 2],
      [0.3, 2],
    ] as const) {
      const random = seeded(43);
      let told = 0;
      for (let test = 0; test < 60; test++) told += changesOf(drawn(random, 400, () => rate)).length;
      expect((told / (60 * 400)) * 1000, `at ${rate}`).toBeLessThanOrEqual(most);
    }
  });

  it('is placed where it was, with what was counted before and since', () => {
    const happened = [
      ...Array<boolean>(60).fill(false),
      ...Array<boolean>(12).fill(true),
      ...Array<boolean>(40).fill(false),
    ];
    const changes = changesOf(happened);
    expect(changes.map(({ at, before, after }) => [at, before, after])).toEqual([
      [60, [0, 60], [12, 12]],
      [72, [12, 12], [0, 40]],
    ]);
    expect(changesOf([])).toEqual([]);
    expect(changesOf([true])).toEqual([]);
  });
});

it('the intervals of a day hold the true rate as often as they say', () => {
  const random = seeded(47);
  let [held, all] = [0, 0];
  for (const rate of [0.01, 0.05, 0.3, 0.7])
    for (let day = 0; day < 500; day++) {
      const ran = 20 + Math.floor(random() * 200);
      const failed = drawn(random, ran, () => rate).filter(Boolean).length;
      const [point] = pointsOf([{ at: 0, commit: null, ran, failed, flaky: 0, retryMs: 0 }], 'day');
      all++;
      if (point!.failure.low <= rate && rate <= point!.failure.high) held++;
    }
  expect(held / all).toBeGreaterThan(0.935);
  expect(held / all).toBeLessThan(0.975);
});

const day = 86_400_000;
const at = (
  run: number,
  number: number,
  outcome: PastAttempt['outcome'],
  more: Partial<PastAttempt> = {},
): PastAttempt => ({
  id: `a${run}-${number}-${more.test ?? 't'}`,
  test: 't',
  run: `r${run}`,
  environment: 'chromium',
  number,
  outcome,
  startedAt: run * day + number * 1000,
  durationMs: 2000,
  family: outcome === 'failed' ? 'f' : null,
  ...more,
});

describe('the runs of a test', () => {
  it('are told by how their last attempt ended, in time order; what did not run to an end says nothing', () => {
    const runs = testRunsOf([
      at(3, 1, 'failed'),
      at(3, 2, 'failed'),
      at(1, 1, 'passed'),
      at(2, 2, 'passed'),
      at(2, 1, 'failed'),
      at(4, 1, 'skipped'),
      at(5, 1, 'interrupted'),
    ]);
    expect(runs.map(({ run, failed, flaky, retryMs, family }) => [run, failed, flaky, retryMs, family])).toEqual([
      ['r1', false, false, 0, null],
      ['r2', false, true, 2000, 'f'],
      ['r3', true, false, 2000, 'f'],
    ]);
  });

  it('are counted by day and by commit, with what retries cost', () => {
    const counted = [
      { at: day, commit: 'a', ran: 4, failed: 1, flaky: 1, retryMs: 5 },
      { at: day + 5, commit: 'b', ran: 6, failed: 0, flaky: 0, retryMs: 0 },
      { at: 2 * day, commit: 'b', ran: 10, failed: 0, flaky: 2, retryMs: 7 },
      { at: 3 * day, commit: null, ran: 1, failed: 1, flaky: 0, retryMs: 0 },
    ];
    expect(
      pointsOf(counted, 'day').map(({ label, ran, failed, flaky, retryMs }) => [label, ran, failed, flaky, retryMs]),
    ).toEqual([
      ['1970-01-02', 10, 1, 1, 5],
      ['1970-01-03', 10, 0, 2, 7],
      ['1970-01-04', 1, 1, 0, 0],
    ]);
    const [a, b] = pointsOf(counted, 'commit');
    expect([a!.label, b!.label, b!.ran, b!.at]).toEqual(['a', 'b', 16, day + 5]);
    expect(a!.failure).toEqual(wilson(1, 4));
  });

  it('name the commits that a change lies between, and say whether a quarantine pays', () => {
    const names = new Map<string, RunName>(
      Array.from({ length: 60 }, (_, run) => [
        `r${run}`,
        { id: `r${run}`, name: `nightly-${run}`, commit: run < 40 ? 'aaaaaaaaaaaa' : 'bbbbbbbbbbbb', branch: 'main' },
      ]),
    );
    const attempts = Array.from({ length: 60 }, (_, run) =>
      run >= 40 && run % 2 ? [at(run, 1, 'failed'), at(run, 2, 'passed')] : [at(run, 1, 'passed')],
    ).flat();
    const told = testHistory(testRunsOf(attempts), names, 'day', () => 'slow-response');
    expect(told.changes).toHaveLength(1);
    expect(told.changes[0]!.words).toMatch(
      /^Fails more often (between commits aaaaaaaaaa and bbbbbbbbbb|from nightly-4\d on): first attempts failed in 0 of 4\d before, in 10 of 1\d since$/,
    );
    expect(told).toMatchObject({ runs: 60, failed: 0, flaky: 10, retryMs: 20_000 });
    expect(told.quarantine).toMatchObject({ advised: true });
    const finds = testHistory(testRunsOf(attempts), names, 'day', () => 'service-error');
    expect(finds.quarantine.advised).toBe(false);
    expect(finds.quarantine.words).toContain('it has found 1 fault of the application');
  });
});

it('mend first what costs most: red runs by it alone before minutes of retries', () => {
  const runs = testRunsOf([
    ...Array.from({ length: 14 }, (_, run) => [at(run, 1, 'failed'), at(run, 2, 'passed')]).flat(),
    ...Array.from({ length: 14 }, (_, run) => at(run, 1, run < 2 ? 'failed' : 'passed', { test: 'red' })),
    ...Array.from({ length: 14 }, (_, run) => at(run, 1, 'passed', { test: 'fine' })),
  ]);
  const list = mendFirst(runs, 14 * day, () => 1);
  expect(
    list.map(({ test, failed, flaky, weeklyRed, weeklyMs }) => [test, failed, flaky, weeklyRed, weeklyMs]),
  ).toEqual([
    ['red', 2, 0, 1, 0],
    ['t', 0, 14, 0, 14_000],
  ]);
  expect(mendFirst(runs, 14 * day, () => 2).map(({ test }) => test)).toEqual(['t', 'red']);
});

it('of one way to fail, what a test failed by otherwise counts as if it had passed', () => {
  const at = (run: number, number: number, outcome: 'passed' | 'failed', family: string | null): PastAttempt => ({
    id: `${run}.${number}`,
    test: 't',
    run: `r${run}`,
    environment: 'e',
    number,
    outcome,
    startedAt: run * 100 + number,
    durationMs: 10,
    family,
  });
  const runs = testRunsOf([
    at(1, 1, 'failed', 'a'),
    at(1, 2, 'passed', null),
    at(2, 1, 'failed', 'b'),
    at(2, 2, 'failed', 'a'),
    at(3, 1, 'failed', 'b'),
    at(3, 2, 'passed', null),
    at(4, 1, 'passed', null),
  ]);
  const told = failedSo(runs, new Set(['1.1', '2.2']));
  expect(told.map(({ failed, flaky, retryMs }) => [failed, flaky, retryMs])).toEqual([
    [false, true, 10],
    [true, false, 10],
    [false, false, 0],
    [false, false, 0],
  ]);
  const names = new Map<string, RunName>();
  expect(testHistory(told, names, 'day', () => undefined, 'family')).toMatchObject({ runs: 4, failed: 1, flaky: 1 });
});
