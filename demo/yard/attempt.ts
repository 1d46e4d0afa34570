import { spawn, type ChildProcess } from 'node:child_process';
import { seeded } from '../../src/core/stats/seeded.ts';
import { stackOf } from '../suite/stack.ts';
import { WebDriver } from '../suite/webdriver.ts';
import type { Mechanism } from './mechanism.ts';
import type { YardSite } from './site.ts';
import { Tester } from './tester.ts';

/** What is known of one recorded attempt, apart from its evidence. */
export interface Label {
  id: string;
  mechanism: string;
  cause: string;
  held: boolean;
  hurts: boolean;
  outcome: 'passed' | 'failed';
  message: string;
  /** When the site parted from what it does in a visit that is not hurt, by the site's clock or the test's; absent when neither told. */
  partedAt?: number;
  /** It was the test that told: the attempt parts at the step that came next. */
  partsNext?: true;
  startedAt: number;
}

interface Options {
  remote: string;
  yard: YardSite;
  hurts: boolean;
  seed: number;
  /** What the attempt says it belongs to; the yard's own runs without it. */
  told?: { run: string; suite: string; number: number };
}

/** One attempt of one mechanism's test, in a session of its own. */
export async function attemptOf(mechanism: Mechanism, { remote, yard, hurts, seed, told }: Options): Promise<Label> {
  const random = seeded(seed * 104729);
  const draw = (low: number, high: number): number => Math.round(low + random() * (high - low));
  const planned = yard.next(mechanism, seed, hurts);
  const hogs = hurts ? startHogs(mechanism.hogs ?? 0) : [];
  const startedAt = Date.now();
  let driver: WebDriver | undefined;
  let tester: Tester | undefined;
  let failure: Error | undefined;
  let id = '';
  try {
    driver = await WebDriver.open(remote, capabilitiesOf(mechanism, hurts, seed, told));
    id = driver.attempt;
    // Not every browser takes a size at its start; a suite for several sets it.
    if (mechanism.engine) await driver.send('POST', '/window/rect', { width: 1280, height: 800 });
    try {
      tester = new Tester(driver, yard.address, hurts, draw);
      await mechanism.test(tester);
      await driver.outcome('passed');
    } catch (error) {
      failure = error as Error;
      await driver.screenshot().catch(() => undefined);
      await driver.outcome('failed', failure.message, stackOf(failure));
    }
  } finally {
    await driver?.quit().catch(() => undefined);
    for (const hog of hogs) hog.kill('SIGKILL');
  }
  const bySite = planned.visit()?.partedAt;
  const partedAt = bySite ?? tester?.partedAt;
  return {
    id,
    mechanism: mechanism.id,
    cause: mechanism.cause,
    held: mechanism.held ?? false,
    hurts,
    outcome: failure ? 'failed' : 'passed',
    message: failure?.message ?? '',
    startedAt,
    ...(partedAt === undefined ? {} : { partedAt }),
    ...(bySite === undefined && partedAt !== undefined ? { partsNext: true } : {}),
  };
}

function capabilitiesOf(
  mechanism: Mechanism,
  hurts: boolean,
  seed: number,
  told: Options['told'],
): Record<string, unknown> {
  const { 'goog:chromeOptions': chrome, ...more } = mechanism.capabilities ?? {};
  const size = (hurts && mechanism.size) || '1280,800';
  const args = [`--window-size=${size}`, ...((chrome as { args?: string[] })?.args ?? [])];
  const browser =
    hurts && mechanism.engine
      ? { browserName: mechanism.engine }
      : { browserName: 'chrome', 'goog:chromeOptions': { args } };
  return {
    ...browser,
    ...more,
    'iskel:attempt': {
      run: told?.run ?? `yard-${mechanism.commit && !hurts ? 'before' : hurts ? 'evening' : 'morning'}-${seed}`,
      test: {
        suite: told?.suite ?? `yard / ${mechanism.suite}`,
        title: mechanism.title,
        file: `demo/yard/faults/${mechanism.cause}.ts`,
      },
      number: told?.number ?? 1,
      commit: mechanism.commit && !hurts ? '5e20c1ab90' : '7c1e09b4f2',
      branch: 'main',
      worker: '1',
      labels: { host: 'ci' },
    },
  };
}

/** Processes that take time from the machine, each in a session of its own so that the system shares time fairly with each. They end with us, whatever happens. */
function startHogs(count: number): ChildProcess[] {
  const work = `setTimeout(() => process.exit(), 60000); const turn = () => { const end = Date.now() + 50; while (Date.now() < end); if (process.ppid === 1) process.exit(); setImmediate(turn); }; turn();`;
  return Array.from({ length: count }, () =>
    spawn(process.execPath, ['-e', work], { stdio: 'ignore', detached: true }),
  );
}
