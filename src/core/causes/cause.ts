import type { ClueCode } from '../clues/codes.ts';

/** The cause codes other programs rely on; see docs/causes. The words are what a person reads. */
export const causeNames = {
  'early-action': 'Acted before ready',
  'early-check': 'Checked before settled',
  'navigation-race': 'Raced a navigation',
  'moving-target': 'Moving target',
  'slow-response': 'Response slower than the wait',
  'replaced-element': 'Replaced element',
  'loose-locator': 'Locator matches several',
  'brittle-locator': 'Locator built on a shifting value',
  'covered-target': 'Covered target',
  'layout-variant': 'Layout hides or moves it',
  'wrong-window': 'Looking at another window',
  'unexpected-dialog': 'A dialog stood in the way',
  'lost-input': 'Typed text was lost',
  'missing-step': 'A step was not taken',
  'random-data': 'Depends on generated data',
  'shared-state': 'Depends on order or leftovers',
  'clock-dependent': 'Depends on date or zone',
  'service-error': 'Own service failed',
  'third-party-outage': 'Outside service failed',
  'engine-difference': 'Only in one engine',
  'starved-machine': 'Machine was starved',
  'script-error': 'Application threw',
  'wrong-result': 'Steadily wrong result',
  'empty-check': 'Check had nothing to check',
  'wrong-expectation': 'Test expects the wrong thing',
} as const;

export type CauseCode = keyof typeof causeNames;

export const causeCodes = Object.keys(causeNames) as CauseCode[];

/** True when a text is one of the contract's cause codes. */
export const isCauseCode = (text: string): text is CauseCode => Object.hasOwn(causeNames, text);

/** Log-odds by clue. */
export type Weights = Readonly<Partial<Record<ClueCode, number>>>;

/**
 * How clues speak about one cause. Weights are log-odds at full strength: 2.2 makes the odds nine
 * times better, 4.6 a hundred times.
 */
export interface Cause {
  code: CauseCode;
  for: Weights;
  against: Weights;
  /** Clues that make a passing attempt doubtful by this cause; of other causes a passing attempt is never suspected. */
  doubts?: Weights;
}
