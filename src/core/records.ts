import type { CauseCode } from './causes/cause.ts';
import type { AttemptState, Environment, Outcome, TestName } from './evidence/attempt.ts';
import type { Failure } from './failures/failure.ts';

/** What is kept of runs, attempts and families, as the store gives it and the screens show it. */

export interface Leading {
  cause: CauseCode;
  probability: number;
}

export interface AttemptLabels {
  tags?: string[];
  labels?: Record<string, string>;
  shard?: string;
  worker?: string;
  detail?: string;
}

export interface Attempt {
  id: string;
  runId: string;
  test: TestName;
  number: number;
  outcome: Outcome;
  state: AttemptState;
  environment: Environment & { key: string };
  startedAt: number;
  durationMs: number;
  message: string;
  stack: string;
  interruptedBy: string | null;
  labels: AttemptLabels;
  failure: Failure | null;
  familyId: string | null;
  undetermined: boolean;
  seriesId: string | null;
  /** The most probable cause, when one stands out. */
  leading: Leading | null;
}

export interface Totals {
  tests: number;
  attempts: number;
  passed: number;
  failed: number;
  flaky: number;
  skipped: number;
  errored: number;
  interrupted: number;
  unreported: number;
}

export interface Run {
  id: string;
  name: string;
  startedAt: number;
  commit: string | null;
  branch: string | null;
  totals: Totals;
  /** True while an attempt of it is being recorded. */
  recording: boolean;
}

export interface Decision {
  id: number;
  familyId: string;
  at: number;
  kind: 'confirm' | 'clear' | 'stand' | 'note';
  cause: CauseCode | null;
  text: string;
}

/** What the decisions that are not undone say. */
export interface Verdict {
  confirmed: CauseCode | null;
  cleared: { cause: CauseCode; reason: string }[];
  note: string;
  /** The newest decision, which undo takes back. */
  last: Decision | null;
}

export interface Family {
  id: string;
  sentence: string;
  firstAt: number;
  verdict: Verdict;
}

/** A family as one run shows it. */
export interface RunFamily {
  id: string;
  sentence: string;
  tests: number;
  environments: number;
  /** In time order; `flaky` when the same test passed later in this run. */
  attempts: { id: string; outcome: Outcome; flaky: boolean }[];
  leading: Leading | null;
  /** First seen in this run. */
  isNew: boolean;
  runs: number;
  verdict: Verdict;
}

export type SeriesState = 'waiting' | 'running' | 'done' | 'stopped' | 'failed';

export interface Series {
  id: string;
  drillId: string;
  runId: string;
  engine: string;
  trials: number;
  state: SeriesState;
  problem: string | null;
  createdAt: number;
}
