import type { Outcome } from '../evidence/attempt.ts';

/** For how many days something is kept; null for ever. */
export type Days = number | null;

/** How long evidence is kept of the attempts of some runs: first the pictures and videos go, then the rest. */
export interface KeepingTerm {
  /** A part of the run's name, and of its branch; empty for all. */
  run: string;
  branch: string;
  failing: { pictures: Days; rest: Days };
  /** Of the passing attempts of one test in one environment, one in so many keeps its pictures at all. */
  passing: { pictures: Days; rest: Days; oneIn: number };
}

export interface Keeping {
  /** The first that fits a run holds; of a run that none fits, everything is kept. */
  terms: KeepingTerm[];
  /** What the whole data folder may take, in GB of 10^9 bytes; null for no bound. */
  budgetGb: number | null;
}

/** What is kept of an attempt: everything; all but pictures and videos; nothing but what was found in it. */
export const levels = { whole: 2, noPictures: 1, findings: 0 } as const;
export type Level = (typeof levels)[keyof typeof levels];

/** An attempt as keeping sees it. */
export interface KeptAttempt {
  id: string;
  outcome: Outcome;
  /** Of a series of trials, and of no run of tests. */
  trial: boolean;
  /** Test and environment: attempts of the same one stand for each other. */
  place: string;
  run: string;
  branch: string;
  startedAt: number;
  pinned: boolean;
  level: Level;
  /** What its events take in the database, bytes. */
  bytes: number;
  /** Its pictures and videos, and its other files, each by a number: those of several attempts may be the same file. */
  pictures: readonly number[];
  others: readonly number[];
}

const day = 86_400_000;

export const termOf = (terms: readonly KeepingTerm[], run: string, branch: string): KeepingTerm | undefined =>
  terms.find((term) => run.includes(term.run) && branch.includes(term.branch));

/** Whether something that began at a time is older than it is kept. */
export const isOver = (days: Days, startedAt: number, now: number): boolean =>
  days !== null && startedAt < now - days * day;

export const dayMs = day;
