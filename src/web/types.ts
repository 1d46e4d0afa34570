import type { Advice } from '../core/remedies/advice.ts';
import type { Suspect as ScoredSuspect } from '../core/causes/score.ts';
import type { AttemptState, Outcome } from '../core/evidence/attempt.ts';
import type {
  Again,
  Attempt,
  EvidenceFile,
  Family,
  Mending,
  Run as StoredRun,
  RunFamily,
  Series,
} from '../core/records.ts';

import type { WholePreview } from '../core/rules/told.ts';
import type { Level } from '../core/keeping/keeping.ts';
import type { KeepingPlan, LetGoWhy } from '../core/keeping/plan.ts';
import type { Phase } from '../core/trials/search.ts';
import type { Proof, Side } from '../core/trials/proof.ts';
import type { CauseCode } from '../core/causes/cause.ts';
import type { Remedy } from '../core/remedies/remedy.ts';
import type { Shown } from '../core/trials/shown.ts';
import type { Stressor } from '../core/trials/stressor.ts';
import type { Finding } from '../core/trials/findings.ts';
import type { Tally, Verdict } from '../core/trials/tally.ts';

export type { FamilyHistoryView, HistoryAsked, TestHistoryView, WholeHistory } from '../core/history/told.ts';
export type { KeepingView } from '../core/keeping/told.ts';
export type { OutlookList } from '../core/risks/told.ts';
export type { PageReadiness } from '../core/readiness/readiness.ts';
export type { Risk } from '../core/risks/risk.ts';
export type { Outlook, TestRisk } from '../core/risks/outlook.ts';
export type { Finding } from '../core/trials/findings.ts';
export type { Decision } from '../core/families/decision.ts';
export type { Verdict } from '../core/families/verdict.ts';
export type { Attempt, Family, RunFamily, Series } from '../core/records.ts';

/** What the API answers beyond the records themselves. */
export interface Run extends StoredRun {
  families: RunFamily[];
}

export interface AttemptView extends Attempt {
  run: { id: string; name: string } | null;
  family: Family | null;
  siblings: { id: string; number: number; outcome: Outcome }[];
  /** Files another runner left behind that are placed here. */
  files: EvidenceFile[];
  kept: { level: Level; pinned: boolean; letGoAt: number | null; why: LetGoWhy | null };
}

export interface Suspect extends ScoredSuspect {
  name: string;
}

/** What to do about one attempt, and from how many it was drawn. */
export interface AdviceAnswer {
  advice: Omit<Advice, 'change'>[];
  remedies: Remedy[];
  from: { passing: number; failing: number };
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

/** One thing that a search tried, with its counts. */
export interface SearchArm extends Tally {
  stressors: Stressor[];
  words: string;
  phase: Phase | null;
  why: string | null;
  trials: { number: number; attemptId: string | null; verdict: Verdict }[];
}

export interface SeriesView extends Omit<Series, 'trials' | 'search' | 'proof'> {
  trials: Trial[];
  /** What all its trials were under, in words. */
  under: string;
  search: {
    budget: { trials: number; minutes: number };
    ended: string | null;
    planned: number;
    arms: SearchArm[];
  } | null;
  findings: Finding[];
  ruledOut: string[];
  title: string;
  familyId: string | null;
  done: number;
  failed: number;
  otherFailures: number;
  rate: { point: number; low: number; high: number };
}

/** What the newest search for what provokes a failure has shown. */
export interface ShownTrials {
  drillId: string;
  seriesId: string;
  shown: Shown;
}

/** The proof of a remedy as it stands. */
export interface ProofView extends Proof {
  id: string;
  drillId: string;
  attemptId: string | null;
  title: string;
  engine: string;
  state: Series['state'];
  problem: string | null;
  stressors: Stressor[];
  /** What provokes the failure, in words. */
  under: string;
  remedy: string;
  cause: CauseCode | null;
  remedyWords: string;
  drillBefore: string | null;
  drillAfter: string;
  wanted: Record<Side | 'all', number>;
  trials: { number: number; side: Side; verdict: Verdict; attemptId: string | null; place: string | null }[];
}

/** What rules would have done to the last runs, and what they keep. */
export interface RulesPreview extends WholePreview {
  keeping: Omit<KeepingPlan, 'letGo'> & { words: string[] };
}

/** Provoke, mend, prove, as far as it is. */
export interface MendingView extends Omit<Mending, 'proofs'> {
  attempt: Attempt | null;
  search: SeriesView | null;
  proofs: ProofView[];
}

/** Tests that were run again, as they stand. */
export interface AgainView extends Omit<Again, 'tests' | 'series'> {
  tests: { id: string; suite: string; title: string }[];
  series: (SeriesView & { drillId: string })[];
}

/** A test command of the settings file, as pages may know it. */
export interface TestCommandView {
  name: string;
  words: string;
  folder: string;
  reports: string[];
  minutes: number;
}
