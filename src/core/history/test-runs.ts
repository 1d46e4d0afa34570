import { isFailure, standingOf, type Outcome } from '../evidence/attempt.ts';

/** One attempt as its test's history sees it. */
export interface PastAttempt {
  id: string;
  test: string;
  run: string;
  environment: string;
  number: number;
  outcome: Outcome;
  startedAt: number;
  durationMs: number;
  family: string | null;
}

/** What one run came to for one test in one environment. */
export interface TestRun {
  test: string;
  run: string;
  environment: string;
  at: number;
  /** Ids of its attempts with how each ended, in order. */
  attempts: { id: string; outcome: Outcome }[];
  /** It failed, and no attempt after that passed; or it passed only on retry. */
  failed: boolean;
  flaky: boolean;
  /** Machine time of all attempts but the first, ms. */
  retryMs: number;
  /** Family of its first failure. */
  family: string | null;
}

/** The same runs as far as they failed in one way: what else a test failed by is as if it had passed. */
export const failedSo = (runs: readonly TestRun[], attempts: ReadonlySet<string>): TestRun[] =>
  runs.map((one) =>
    one.attempts.some(({ id }) => attempts.has(id))
      ? one
      : { ...one, failed: false, flaky: false, retryMs: 0, family: null },
  );

/** Runs of a test that ran to an end, in time order: skipped, unreported and interrupted ones say nothing of a rate. */
export function testRunsOf(attempts: readonly PastAttempt[]): TestRun[] {
  const cells = new Map<string, PastAttempt[]>();
  for (const one of attempts) {
    const key = `${one.test}\n${one.run}\n${one.environment}`;
    const cell = cells.get(key);
    if (cell) cell.push(one);
    else cells.set(key, [one]);
  }
  return [...cells.values()]
    .flatMap((cell): TestRun[] => {
      cell.sort((a, b) => a.number - b.number || a.startedAt - b.startedAt);
      const standing = standingOf(cell);
      const [first, ...retries] = cell as [PastAttempt, ...PastAttempt[]];
      if (standing !== 'passed' && standing !== 'flaky' && !isFailure(cell.at(-1)!.outcome)) return [];
      return [
        {
          test: first.test,
          run: first.run,
          environment: first.environment,
          at: first.startedAt,
          attempts: cell.map(({ id, outcome }) => ({ id, outcome })),
          failed: standing !== 'passed' && standing !== 'flaky',
          flaky: standing === 'flaky',
          retryMs: retries.reduce((sum, { durationMs }) => sum + durationMs, 0),
          family: cell.find(({ outcome }) => isFailure(outcome))?.family ?? null,
        },
      ];
    })
    .sort((a, b) => a.at - b.at);
}
