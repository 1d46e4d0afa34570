import type { Scene } from '../clues/scene.ts';

/** What makes a test that passes likely to fail one day by no fault of the application. */
export const riskKinds = [
  'fixed-sleep',
  'unwaited',
  'read-too-early',
  'page-left-behind',
  'left-under-way',
  'thin-limit',
  'held-across-redraw',
  'place-measured-before',
  'first-of-several',
  'made-up-locator',
  'step-sometimes',
  'looked-once',
  'window-by-order',
  'list-may-be-empty',
  'made-up-input',
  'day-dependent',
  'outside-answer',
  'covered-at-times',
  'left-by-others',
  'secret-shown',
] as const;
export type RiskKind = (typeof riskKinds)[number];

/** One reason why a test that passes may not pass the next time, with what shows it and what to change. */
export interface Risk {
  kind: RiskKind;
  /** Equal in two attempts of a test where it is the same. */
  key: string;
  /** The step it is about, as a person would say it: the line to change. */
  step: string;
  /** Where in the test's own file, if it told. */
  source?: string;
  at: number;
  until?: number;
  /** What was seen. */
  summary: string;
  /** What to write instead. */
  change: string;
  /** How much of what its kind can tell this one tells, 0…1. */
  strength: number;
  /** Ids of events, the most telling first. */
  evidence: string[];
}

/** One kind of risk: what it looks for in an attempt that passed, held against others that did. */
export interface RiskFinder {
  kind: RiskKind;
  /** One sentence: what it is evidence of. */
  about: string;
  find(scene: Scene): Omit<Risk, 'kind'>[];
}
