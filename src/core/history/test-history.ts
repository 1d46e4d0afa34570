import { causeCodes, type CauseCode } from '../causes/cause.ts';
import { plural } from '../evidence/labels.ts';
import { wilson, type Rate } from '../stats/wilson.ts';
import { changesOf } from './changes.ts';
import { pointsOf, type PerPoint, type Point } from './points.ts';
import type { TestRun } from './test-runs.ts';

/** A run as a history names it. */
export interface RunName {
  id: string;
  name: string;
  commit: string | null;
  branch: string | null;
}

/** When the rate at which a test fails its first attempt became another one. */
export interface Change {
  /** Start of the first run of the new rate, and the run; the last one before it. */
  at: number;
  run: RunName;
  last: RunName;
  /** The run after which it was told. */
  toldIn: RunName;
  before: Rate & { hits: number; of: number };
  after: Rate & { hits: number; of: number };
  words: string;
}

export interface TestHistory {
  runs: number;
  /** Of all runs of it: failed in the end, passed only on retry. */
  failure: Rate;
  flake: Rate;
  failed: number;
  flaky: number;
  retryMs: number;
  points: Point[];
  changes: Change[];
  /** How it ended in each run, in time order. */
  strip: (Pick<TestRun, 'run' | 'environment' | 'at' | 'attempts' | 'failed' | 'flaky' | 'family'> & {
    runName: string;
  })[];
  quarantine: Quarantine;
}

/** Of whom a history tells: a test that fails, or a failure that comes. */
export type Subject = 'test' | 'family';

/** What taking a test out of those that may make a run red would save, and what it would miss. */
export interface Quarantine {
  advised: boolean;
  words: string;
}

/** Causes that are the application's: what a test in quarantine would no longer stop. */
const applicationCauses: ReadonlySet<CauseCode> = new Set(
  causeCodes.filter((code) => ['service-error', 'script-error', 'wrong-result', 'engine-difference'].includes(code)),
);

/**
 * What the runs of one test say over time.
 * @param runs in time order @param names of the runs @param causeOf the confirmed or leading cause of a family
 * @param subject of whom its words speak
 */
export function testHistory(
  runs: readonly TestRun[],
  names: ReadonlyMap<string, RunName>,
  per: PerPoint,
  causeOf: (family: string) => CauseCode | undefined,
  subject: Subject = 'test',
): TestHistory {
  const nameOf = (run: string): RunName => names.get(run) ?? { id: run, name: run, commit: null, branch: null };
  const failed = runs.filter((one) => one.failed).length;
  const flaky = runs.filter((one) => one.flaky).length;
  const dated = runs.map((one) => ({
    at: one.at,
    commit: nameOf(one.run).commit,
    ran: 1,
    failed: one.failed ? 1 : 0,
    flaky: one.flaky ? 1 : 0,
    retryMs: one.retryMs,
  }));
  return {
    runs: runs.length,
    failed,
    flaky,
    failure: wilson(failed, runs.length),
    flake: wilson(flaky, runs.length),
    retryMs: dated.reduce((sum, { retryMs }) => sum + retryMs, 0),
    points: pointsOf(dated, per),
    changes: changesOf(runs.map((one) => one.failed || one.flaky)).map((change): Change => {
      const rate = ([hits, of]: [number, number]): Change['before'] => ({ ...wilson(hits, of), hits, of });
      const [before, after] = [rate(change.before), rate(change.after)];
      const [run, last] = [nameOf(runs[change.at]!.run), nameOf(runs[change.at - 1]!.run)];
      return {
        at: runs[change.at]!.at,
        run,
        last,
        toldIn: nameOf(runs[change.toldAt]!.run),
        before,
        after,
        words: changeWords(subject, before, after, last, run),
      };
    }),
    strip: runs.map(({ run, environment, at, attempts, failed: bad, flaky: half, family }) => ({
      run,
      runName: nameOf(run).name,
      environment,
      at,
      attempts,
      failed: bad,
      flaky: half,
      family,
    })),
    quarantine: quarantineOf(runs, causeOf),
  };
}

const share = ({ hits, of }: Change['before']): string => `${hits} of ${of}`;

function changeWords(
  subject: Subject,
  before: Change['before'],
  after: Change['after'],
  last: RunName,
  first: RunName,
): string {
  const more = after.point > before.point;
  const between =
    last.commit && first.commit && last.commit !== first.commit
      ? `between commits ${last.commit.slice(0, 10)} and ${first.commit.slice(0, 10)}`
      : `from ${first.name} on`;
  const [does, counted] = subject === 'test' ? ['Fails', 'first attempts failed'] : ['Comes', 'it came'];
  return `${does} ${more ? 'more' : 'less'} often ${between}: ${counted} in ${share(before)} before, in ${share(after)} since`;
}

/** From so many runs on, and so many flaky ones of them, something can be said. */
const fewestRuns = 10;

function quarantineOf(runs: readonly TestRun[], causeOf: (family: string) => CauseCode | undefined): Quarantine {
  const troubled = runs.filter((one) => one.failed || one.flaky);
  const rate = wilson(troubled.length, runs.length);
  if (runs.length < fewestRuns)
    return { advised: false, words: `Too few runs to advise: ${runs.length} of ${fewestRuns}` };
  const found = new Set(
    troubled.flatMap(({ family }) => {
      const cause = family === null ? undefined : causeOf(family);
      return cause && applicationCauses.has(cause) ? [family!] : [];
    }),
  ).size;
  const missed = found
    ? `it has found ${plural(found, 'fault')} of the application in these runs, which it would no longer stop`
    : `no failure of these ${runs.length} runs is put down to the application; with 95 % it finds one in fewer than ${plural(Math.ceil(wilson(0, runs.length).high * 100), 'run')} of 100`;
  const red = runs.filter((one) => one.failed).length;
  const minutes = runs.reduce((sum, { retryMs }) => sum + retryMs, 0) / 60_000;
  const saves = `it would keep ${plural(red, 'run')} from being red by it and save ${minutes.toFixed(1)} min of retries`;
  const advised = rate.low > 0.02 && troubled.length >= 3 && found === 0;
  return {
    advised,
    words: `${advised ? 'Quarantine pays' : troubled.length ? 'Quarantine does not pay' : 'It does not fail'}: ${troubled.length ? `${saves}; ${missed}` : missed}`,
  };
}
