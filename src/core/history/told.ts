import type { CauseCode } from '../causes/cause.ts';
import type { MendFirst } from './mend-first.ts';
import type { PerPoint, Point } from './points.ts';
import type { TestHistory } from './test-history.ts';

/** What of a history is asked for. */
export interface HistoryAsked {
  /** Over how many days up to now. */
  days: number;
  per: PerPoint;
  /** Empty for all. */
  branch: string;
  suite: string;
  environment: string;
}

/** The same, with how many points of a chart are told, the latest. */
export interface HistoryOrder extends HistoryAsked {
  points: number;
}

/** What was in all tests. */
export interface WholeHistory {
  points: Point[];
  /** How many points there are in all. */
  ofPoints: number;
  runs: number;
  branches: string[];
  suites: string[];
  environments: string[];
  mendFirst: (MendFirst & { suite: string; title: string; cause: string | null; sentence: string | null })[];
  causes: { day: number; cause: CauseCode | null; name: string; attempts: number }[];
  /** Families that nobody has settled, the oldest first; and those that came back. */
  open: { id: string; sentence: string; firstAt: number; days: number; cameBack: boolean }[];
}

/** How often a failure came in runs of the tests that it is known of. */
export type FamilyHistoryView = TestHistory & {
  sentence: string;
  firstAt: number;
  tests: { id: string; suite: string; title: string }[];
  branches: string[];
  environments: string[];
};

export type TestHistoryView = TestHistory & {
  test: { id: string; suite: string; title: string; file: string | null };
  branches: string[];
  environments: string[];
};
