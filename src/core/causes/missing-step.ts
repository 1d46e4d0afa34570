import type { Cause } from './cause.ts';

/** A step that passing attempts take was not taken. */
export const missingStep: Cause = {
  code: 'missing-step',
  for: { 'refusal-told': 0.6, 'page-asks': 4.4, 'step-out-of-order': 4.5, 'step-left-out': 5, 'error-swallowed': 5 },
  against: {
    'typed-not-held': 3,
    'odd-input': 3,
    'stale-reference-told': 2,
    'press-point-covered': 2,
    'dialog-in-the-way': 2,
  },
  doubts: { 'error-swallowed': 4.8 },
};
