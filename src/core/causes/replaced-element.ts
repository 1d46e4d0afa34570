import type { Cause } from './cause.ts';

/** The held element had been replaced or removed. The driver's word is strong; seeing it happen is stronger. */
export const replacedElement: Cause = {
  code: 'replaced-element',
  for: {
    'polled-detached': 2,
    'held-across-replacement': 4.6,
    'stale-reference-told': 4.2,
    'replaced-after-response': 1,
  },
  against: { 'target-kept-identity': 4 },
};
