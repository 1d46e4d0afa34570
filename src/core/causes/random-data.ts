import type { Cause } from './cause.ts';

/** The outcome depends on data that is made up for every attempt. */
export const randomData: Cause = {
  code: 'random-data',
  for: { 'refusal-told': 2.4, 'odd-input': 4.8 },
  against: { 'typed-not-held': 1.5, 'stale-reference-told': 3, 'press-point-covered': 3 },
};
