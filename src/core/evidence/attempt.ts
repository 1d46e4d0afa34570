/** What is known of one attempt apart from its events. */

export const outcomes = ['passed', 'failed', 'errored', 'skipped', 'unreported', 'interrupted'] as const;
export type Outcome = (typeof outcomes)[number];

/** What a runner may tell as an outcome; the other two are what we say when it told nothing. */
export const reportable = ['passed', 'failed', 'errored', 'skipped'] as const;
export type ReportedOutcome = (typeof reportable)[number];

export type AttemptState = 'recording' | 'settling' | 'ready';

/** The browser of an attempt of which nobody said in which it ran. */
export const untoldBrowser = 'browser not told';

export interface Environment {
  browser: string;
  version: string;
  platform?: string;
  width?: number;
  height?: number;
  place?: string;
}

export interface TestName {
  id: string;
  suite: string;
  title: string;
  file?: string;
}

/** Readable, stable key of an environment: attempts with the same key stand in one column of the run sheet. */
export function environmentKey(environment: Environment): string {
  const size = environment.width && environment.height ? ` ${environment.width}×${environment.height}` : '';
  const major = environment.version.split('.')[0] ?? '';
  return `${[environment.browser, major].filter(Boolean).join(' ')}${size}${environment.place ? ` · ${environment.place}` : ''}`.trim();
}

/** True for outcomes that somebody has to look at. */
export const isFailure = (outcome: Outcome): boolean => outcome === 'failed' || outcome === 'errored';

export type TestStanding = 'passed' | 'failed' | 'flaky' | 'skipped' | 'interrupted' | 'unreported' | 'errored';

/**
 * The standing of one test from its attempts in order: flaky when a failure was followed by a pass,
 * otherwise what the last attempt says.
 */
export function standingOf(attempts: readonly { outcome: Outcome }[]): TestStanding {
  const last = attempts.at(-1)?.outcome ?? 'unreported';
  if (last === 'passed' && attempts.some((attempt) => isFailure(attempt.outcome))) return 'flaky';
  return last;
}
