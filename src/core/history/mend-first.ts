import { changesOf } from './changes.ts';
import { wilson, type Rate } from '../stats/wilson.ts';
import type { TestRun } from './test-runs.ts';

/** What mending one test would save, going by the last weeks. */
export interface MendFirst {
  test: string;
  ran: number;
  failed: number;
  flaky: number;
  /** How often it is not clean at its first attempt. */
  rate: Rate;
  /** Machine time of its retries a week, ms. */
  weeklyMs: number;
  /** Runs a week that were red by it alone. */
  weeklyRed: number;
  /** Since when it fails as it does now: the start of its last change; null where there was none. */
  since: number | null;
  family: string | null;
  attempt: string;
}

const week = 7 * 86_400_000;
/** A red run costs whoever looks at it so much: what a minute of a machine is weighed against. */
export const redRunMs = 15 * 60_000;

/**
 * Tests by what mending them would save, the most first.
 * @param runs of tests that failed lately, in time order @param periodMs over how long @param redTests how many tests were red in a run
 */
export function mendFirst(runs: readonly TestRun[], periodMs: number, redTests: (run: string) => number): MendFirst[] {
  const byTest = new Map<string, TestRun[]>();
  for (const one of runs) {
    const list = byTest.get(one.test);
    if (list) list.push(one);
    else byTest.set(one.test, [one]);
  }
  const weeks = periodMs / week;
  return [...byTest]
    .flatMap(([test, list]): MendFirst[] => {
      const troubled = list.filter((one) => one.failed || one.flaky);
      const last = troubled.at(-1);
      if (!last) return [];
      const alone = new Set(list.filter((one) => one.failed && redTests(one.run) === 1).map(({ run }) => run)).size;
      const change = changesOf(list.map((one) => one.failed || one.flaky)).at(-1);
      return [
        {
          test,
          ran: list.length,
          failed: list.filter((one) => one.failed).length,
          flaky: list.filter((one) => one.flaky).length,
          rate: wilson(troubled.length, list.length),
          weeklyMs: list.reduce((sum, { retryMs }) => sum + retryMs, 0) / weeks,
          weeklyRed: alone / weeks,
          since: change ? list[change.at]!.at : null,
          family: last.family,
          attempt: last.attempts[0]!.id,
        },
      ];
    })
    .sort((a, b) => costOf(b) - costOf(a) || b.rate.point - a.rate.point);
}

const costOf = ({ weeklyMs, weeklyRed }: MendFirst): number => weeklyMs + weeklyRed * redRunMs;
