import type { Cause } from './cause.ts';

/** Depends on order, leftovers or a parallel attempt. */
export const sharedState: Cause = {
  code: 'shared-state',
  for: { 'conflict-told': 5, 'more-than-usual': 4.4, 'ran-beside': 3, 'served-without': 4.4 },
  against: { 'other-of-several': 2, 'stale-reference-told': 3, 'press-point-covered': 3 },
};
