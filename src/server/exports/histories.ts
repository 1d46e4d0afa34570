import { causeNames, type CauseCode } from '../../core/causes/cause.ts';
import { writeCsv } from '../../core/formats/csv.ts';
import { isoOf } from '../../core/formats/times.ts';
import { mendFirst } from '../../core/history/mend-first.ts';
import { pointsOf, type Point } from '../../core/history/points.ts';
import { testHistory } from '../../core/history/test-history.ts';
import type { FamilyHistoryView, HistoryOrder, TestHistoryView, WholeHistory } from '../../core/history/told.ts';
import { failedSo, testRunsOf, type PastAttempt } from '../../core/history/test-runs.ts';
import { isAll, type Of } from '../store/history.ts';
import type { Store } from '../store/store.ts';

const dayMs = 86_400_000;
const mostOpen = 30;
/** What is to be mended first is told by the last weeks, however long the history is. */
const mendDays = 30;
/** A failure of more tests than these is told of by so many. */
const mostOfFamily = 50;

/** What was in all tests over some days. For threads. */
export function historyOf(store: Store, order: HistoryOrder): WholeHistory {
  const { history, runs } = store;
  const since = Date.now() - order.days * dayMs;
  runs.countSince(since);
  const counted = history.counted(since, order);
  const points = pointsOf(counted, order.per);
  const lately = Date.now() - Math.min(mendDays, order.days) * dayMs;
  return {
    points: points.slice(-order.points),
    ofPoints: points.length,
    runs: counted.length,
    branches: history.branches(),
    ...history.parts(),
    mendFirst: toMend(store, lately, order),
    causes: history
      .causes(since, partsOf(order))
      .map((one) => ({ ...one, name: one.cause ? causeNames[one.cause] : 'no suspect stands out' })),
    open: openFamilies(store, order),
  };
}

const partsOf = ({ branch, suite, environment }: HistoryOrder): Of => ({ branch, suite, environment });

function toMend(store: Store, since: number, order: HistoryOrder): WholeHistory['mendFirst'] {
  const { history, runs, families } = store;
  const all = history
    .failing(since, partsOf(order))
    .flatMap((test) => testRunsOf(within(store, history.ofTest(test, since), order)));
  all.sort((a, b) => a.at - b.at);
  const red = new Map<string, number>();
  const redTests = (run: string): number => {
    let count = red.get(run);
    if (count === undefined) {
      const { failed, errored } = runs.summary(run).totals;
      red.set(run, (count = failed + errored));
    }
    return count;
  };
  // A history that is shorter than what is asked for saves in its own time.
  const period = Math.max(dayMs, Date.now() - Math.max(since, all[0]?.at ?? since));
  return mendFirst(all, period, redTests).map((one) => {
    const test = history.test(one.test)!;
    const family = one.family === null ? undefined : families.get(one.family);
    const cause = one.family === null ? undefined : (family?.verdict.confirmed ?? history.leadingCause(one.family));
    return {
      ...one,
      suite: test.suite,
      title: test.title,
      cause: family?.verdict.ownCause ?? (cause ? causeNames[cause] : null),
      sentence: family?.sentence ?? null,
    };
  });
}

/** Attempts in runs of the branch, and in the environment, that are asked for. */
function within(
  { history }: Store,
  attempts: readonly PastAttempt[],
  { branch, environment }: HistoryOrder,
): PastAttempt[] {
  const names = branch ? history.names(attempts.map(({ run }) => run)) : undefined;
  return attempts.filter(
    (one) => (!environment || one.environment === environment) && (!names || names.get(one.run)?.branch === branch),
  );
}

function openFamilies({ families, history }: Store, order: HistoryOrder): WholeHistory['open'] {
  const of = partsOf(order);
  const meant = isAll(of) ? undefined : history.families(of);
  return families
    .newest()
    .filter(({ id }) => !meant || meant.has(id))
    .filter(({ verdict }) => verdict.cameBack || (verdict.state !== 'mended' && verdict.state !== 'will not mend'))
    .map(({ id, sentence, firstAt, verdict }) => ({
      id,
      sentence,
      firstAt,
      days: Math.floor((Date.now() - firstAt) / dayMs),
      cameBack: verdict.cameBack !== null,
    }))
    .sort((a, b) => Number(b.cameBack) - Number(a.cameBack) || a.firstAt - b.firstAt)
    .slice(0, mostOpen);
}

/** What was in one test over some days; nothing where there is no such test. For threads. */
export function historyOfTest(store: Store, id: string, order: HistoryOrder): TestHistoryView | undefined {
  const { history, families } = store;
  const test = history.test(id);
  if (!test) return undefined;
  const all = history.ofTest(id, Date.now() - order.days * dayMs);
  const names = history.names(all.map(({ run }) => run));
  const environments = [...new Set(all.map(({ environment }) => environment))].sort();
  const branches = [...new Set([...names.values()].flatMap(({ branch }) => branch ?? []))].sort();
  const asked = within(store, all, order);
  const causeOf = (family: string): CauseCode | undefined =>
    families.get(family)?.verdict.confirmed ?? history.leadingCause(family);
  return { test, branches, environments, ...testHistory(testRunsOf(asked), names, order.per, causeOf) };
}

/** How often one failure came in the runs of its tests; nothing where there is no such family. For threads. */
export function historyOfFamily(store: Store, id: string, order: HistoryOrder): FamilyHistoryView | undefined {
  const { history, families } = store;
  const family = families.get(id);
  if (!family) return undefined;
  const { attempts, tests } = history.ofFamily(id);
  const since = Date.now() - order.days * dayMs;
  const all = tests.slice(0, mostOfFamily).flatMap((test) => history.ofTest(test, since));
  const names = history.names(all.map(({ run }) => run));
  const runs = failedSo(testRunsOf(within(store, all, order)), attempts).sort((a, b) => a.at - b.at);
  return {
    sentence: family.sentence,
    firstAt: family.firstAt,
    tests: tests
      .flatMap((test) => history.test(test) ?? [])
      .map(({ id: one, suite, title }) => ({ id: one, suite, title })),
    branches: [...new Set([...names.values()].flatMap(({ branch }) => branch ?? []))].sort(),
    environments: [...new Set(all.map(({ environment }) => environment))].sort(),
    ...testHistory(runs, names, order.per, () => undefined, 'family'),
  };
}

const head = ['from', 'ran', 'failed', 'failed low', 'failed high', 'flaky', 'flaky low', 'flaky high', 'retries, min'];
/** The points of a chart as CSV; intervals are of 95 %. */
export const pointsCsv = (points: readonly Point[]): string =>
  writeCsv(
    ['point', ...head],
    points.map(({ label, at, ran, failed, flaky, failure, flake, retryMs }) => [
      label,
      isoOf(at),
      ran,
      failed,
      failure.low,
      failure.high,
      flaky,
      flake.low,
      flake.high,
      retryMs / 60_000,
    ]),
  );
