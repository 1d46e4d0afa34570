import type { Cause } from './cause.ts';

/** Acted before the page was ready for it: the answer that fills the target was still under way. */
export const earlyAction: Cause = {
  code: 'early-action',
  for: { 'acted-before-arrival': 4.2, 'wrong-choice-kept': 2 },
  against: { 'nothing-in-flight': 2, 'stale-reference-told': 0.5 },
};
