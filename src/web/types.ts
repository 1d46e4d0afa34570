import type { CauseCode } from '../core/causes/cause.ts';
import type { Clue } from '../core/clues/clue.ts';
import type { AttemptState, Environment, Outcome, TestName } from '../core/evidence/attempt.ts';
import type { Failure } from '../core/failures/failure.ts';

/** What the API answers, as the screens use it. */
export interface Decision {
  id: number;
  at: number;
  kind: 'confirm' | 'clear' | 'stand' | 'note';
  cause: CauseCode | null;
  text: string;
}

export interface Verdict {
  confirmed: CauseCode | null;
  cleared: { cause: CauseCode; reason: string }[];
  note: string;
  last: Decision | null;
}

export interface Leading {
  cause: CauseCode;
  probability: number;
}

export interface RunFamily {
  id: string;
  sentence: string;
  tests: number;
  environments: number;
  attempts: { id: string; outcome: Outcome; flaky: boolean }[];
  leading: Leading | null;
  isNew: boolean;
  runs: number;
  verdict: Verdict;
}

export interface Run {
  id: string;
  name: string;
  startedAt: number;
  commit: string | null;
  branch: string | null;
  recording: boolean;
  totals: {
    tests: number;
    attempts: number;
    passed: number;
    failed: number;
    flaky: number;
    skipped: number;
    errored: number;
    interrupted: number;
    unreported: number;
  };
  families: RunFamily[];
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
  labels: { tags?: string[]; worker?: string; shard?: string };
  failure: Failure | null;
  familyId: string | null;
  undetermined: boolean;
  seriesId: string | null;
  leading: Leading | null;
}

export interface AttemptView extends Attempt {
  run: { id: string; name: string } | null;
  family: Family | null;
  siblings: { id: string; number: number; outcome: Outcome }[];
}

export interface Family {
  id: string;
  sentence: string;
  firstAt: number;
  verdict: Verdict;
}

export interface Suspect {
  cause: CauseCode;
  name: string;
  probability: number;
  for: Clue[];
  against: Clue[];
}

export interface Series {
  id: string;
  drillId: string;
  engine: string;
  trials: number;
  state: 'waiting' | 'running' | 'done' | 'stopped' | 'failed';
  problem: string | null;
  createdAt: number;
}

export interface Trial {
  id: string;
  number: number;
  outcome: Outcome;
  state: AttemptState;
  durationMs: number;
  sentence: string | null;
  same: boolean;
  other: boolean;
}

export interface SeriesView extends Omit<Series, 'trials'> {
  title: string;
  familyId: string | null;
  done: number;
  failed: number;
  otherFailures: number;
  rate: { point: number; low: number; high: number };
  trials: Trial[];
}
