import type { Outcome } from '../evidence/attempt.ts';
import type { CircumstanceRow } from '../evidence/circumstance-rows.ts';

/** All that leaves the house about one failed attempt, on one page; masked before it gets here. Times are ms from its start. */
export interface HandOver {
  /** One plain sentence of what failed. */
  sentence: string;
  test: { suite: string; title: string; number: number };
  outcome: Outcome;
  startedAt: number;
  durationMs: number;
  run: { name: string; commit: string | null; branch: string | null };
  environment: string;
  /** The bench of this attempt, where that can be reached. */
  link: string;
  failure: { at?: number; expected?: string; actual?: string; message: string; line?: string };
  verdict: { confirmed: string | null; cleared: { cause: string; reason: string }[]; note: string };
  pictures: HandedPicture[];
  steps: HandedStep[];
  /** Steps before those that are told. */
  stepsBefore: number;
  parted: HandedDifference[];
  suspects: HandedSuspect[];
  /** Causes in people's own words, with what was pinned to them. */
  own: HandedHypothesis[];
  /** Notes that people pinned to moments. */
  moments: { words: string; at?: number; link?: string }[];
  undetermined: boolean;
  console: { at: number; level: string; text: string }[];
  consoleBefore: number;
  requests: HandedRequest[];
  circumstances: CircumstanceRow[];
  /** What trials have shown, and what remedies came to, a sentence each. */
  trials: string[];
  proofs: string[];
  advice: { text: string; because: string }[];
  written: { at: number; version: string };
}

export interface HandedPicture {
  at: number;
  words: string;
  /** `data:image/…`; absent where only its words leave. */
  data?: string;
  width: number;
  height: number;
  /** The bench of another attempt that it is of. */
  link?: string;
}

export interface HandedStep {
  at: number;
  ms: number;
  label: string;
  failed: boolean;
  /** What went wrong, or what a wait came to. */
  note?: string;
}

export interface HandedDifference {
  summary: string;
  failing: [number, number];
  passing: [number, number];
}

export interface HandedSuspect {
  name: string;
  probability: number;
  for: string[];
  against: string[];
}

export interface HandedHypothesis {
  text: string;
  /** Where it stands, with why it was struck out. */
  state: string;
  for: string[];
  against: string[];
}

export interface HandedRequest {
  at: number;
  ms: number;
  method: string;
  url: string;
  /** Its status, or why it has none. */
  ended: string;
  answer?: string;
}

/** The part of it that is to leave, as a person chose. */
export type Part =
  'pictures' | 'steps' | 'parted' | 'suspects' | 'console' | 'requests' | 'circumstances' | 'trials' | 'advice';

export const parts: readonly Part[] = [
  'pictures',
  'advice',
  'suspects',
  'steps',
  'parted',
  'console',
  'requests',
  'circumstances',
  'trials',
];

export const partNames: Record<Part, string> = {
  pictures: 'The screen',
  steps: 'Steps',
  parted: 'What parted it from passing attempts',
  suspects: 'Suspects',
  console: 'Console',
  requests: 'Failed requests',
  circumstances: 'Circumstances',
  trials: 'Trials and proof',
  advice: 'What to do',
};

/** What is left when some parts stay here. */
export function without(whole: HandOver, left: readonly Part[]): HandOver {
  const gone = new Set(left);
  const list = <T>(part: Part, all: T[]): T[] => (gone.has(part) ? [] : all);
  return {
    ...whole,
    pictures: list('pictures', whole.pictures),
    steps: list('steps', whole.steps),
    stepsBefore: gone.has('steps') ? 0 : whole.stepsBefore,
    parted: list('parted', whole.parted),
    suspects: list('suspects', whole.suspects),
    own: list('suspects', whole.own),
    console: list('console', whole.console),
    consoleBefore: gone.has('console') ? 0 : whole.consoleBefore,
    requests: list('requests', whole.requests),
    circumstances: list('circumstances', whole.circumstances),
    trials: list('trials', whole.trials),
    proofs: list('trials', whole.proofs),
    advice: list('advice', whole.advice),
  };
}
