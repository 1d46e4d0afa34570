import type { Cause } from './cause.ts';

/** Typed text did not end up in the field. */
export const lostInput: Cause = {
  code: 'lost-input',
  for: { 'part-of-expected': 3, 'typed-not-held': 5.5 },
  against: { 'engine-only': 2.5, 'stale-reference-told': 2 },
};
