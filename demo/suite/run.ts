import type { FerrySite } from '../site/site.ts';
import type { Board, Fault, Visit } from '../site/visits.ts';
import { stackOf } from './stack.ts';
import { ferryTests, type FerryTest } from './tests.ts';
import { WebDriver } from './webdriver.ts';

export interface SuiteRun {
  /** Address of the WebDriver remote end. */
  remote: string;
  site: FerrySite;
  run: string;
  commit?: string;
  retries?: number;
  size?: string;
  /** Faults switched on for a test, by title, and for each of its attempts whether the visit draws the timing that hurts. */
  faults?: Readonly<Record<string, { fault: Fault; hurts: boolean[]; seed?: number; hurting?: Partial<Visit> }>>;
  /** What the notice board does in a test's visits, by title. */
  boards?: Readonly<Record<string, Board>>;
  tests?: readonly FerryTest[];
}

export interface AttemptResult {
  id: string;
  title: string;
  number: number;
  passed: boolean;
  message: string;
  /** What the site had drawn for this visit. */
  hurts: boolean;
}

/** Runs the ferry suite through a WebDriver remote URL, each test up to `retries` times more. */
export async function runSuite(options: SuiteRun): Promise<AttemptResult[]> {
  const results: AttemptResult[] = [];
  for (const test of options.tests ?? ferryTests) {
    for (let number = 1; number <= 1 + (options.retries ?? 2); number++) {
      const result = await runAttempt(options, test, number);
      results.push(result);
      if (result.passed) break;
    }
  }
  return results;
}

/** One attempt of one test, whose visit meets what is planned for it. */
export async function runAttempt(options: SuiteRun, test: FerryTest, number: number): Promise<AttemptResult> {
  const { site } = options;
  const planned = options.faults?.[test.title];
  site.visits.plan(
    (planned?.seed ?? 1000) + number,
    planned ? [planned.fault] : [],
    planned?.hurts[number - 1] ? 1 : 0,
    planned?.hurting,
    options.boards?.[test.title],
  );
  const before = new Set(site.visits.all().map((visit) => visit.id));
  const { id, failure } = await playTest({ ...options, address: site.address }, test, number);
  const visit = site.visits.all().find((one) => !before.has(one.id));
  return {
    id,
    title: test.title,
    number,
    passed: !failure,
    message: failure?.message ?? '',
    hurts: visit?.hurts ?? false,
  };
}

/** Plays one test in a session of its own. @param options where it is recorded, and where the shop is */
export async function playTest(
  options: Pick<SuiteRun, 'remote' | 'run' | 'commit' | 'size'> & { address: string },
  test: FerryTest,
  number: number,
): Promise<{ id: string; failure?: Error }> {
  const driver = await WebDriver.open(options.remote, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: [`--window-size=${options.size ?? '1280,800'}`] },
    'iskel:attempt': {
      run: options.run,
      test: { suite: test.suite, title: test.title, file: test.file },
      number,
      tags: test.tags,
      labels: { host: 'ci' },
      commit: options.commit,
      branch: 'main',
      worker: '1',
    },
  });
  const id = (driver.capabilities['iskel:attempt'] as { id: string } | undefined)?.id ?? '';
  const expect = async (label: string, actual: unknown, expected: unknown): Promise<void> => {
    const ok = actual === expected;
    await driver.note({ kind: 'check', label, ok, expected: String(expected), actual: String(actual) });
    if (!ok) throw new Error(`${label}: expected "${String(expected)}" but got "${String(actual)}"`);
  };
  let failure: Error | undefined;
  try {
    await test.run({ driver, site: options.address, expect });
    await driver.outcome('passed');
  } catch (error) {
    failure = error as Error;
    await driver.screenshot().catch(() => undefined);
    await driver.outcome('failed', failure.message, stackOf(failure));
  }
  await driver.quit();
  return { id, ...(failure ? { failure } : {}) };
}
