import type { Cause } from './cause.ts';

/** It fails in one browser engine only. */
export const engineDifference: Cause = {
  code: 'engine-difference',
  for: { 'no-element-told': 0.2, 'engine-only': 4.6 },
  against: { 'stale-reference-told': 1 },
};
