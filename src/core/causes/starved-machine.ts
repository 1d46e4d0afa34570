import type { Cause } from './cause.ts';

/** Everything was slowed by the machine. */
export const starvedMachine: Cause = {
  code: 'starved-machine',
  for: { 'place-only': 0.3, 'all-stretched': 6.5, 'commands-slow': 4, 'timeout-told': 0.5 },
  against: {
    'served-without': 3,
    'own-request-failed': 3,
    'outside-failed': 3,
    'exception-thrown': 2,
    'stale-reference-told': 5.5,
    'settled-at-check': 3,
    'conflict-told': 3,
    'size-differs': 3,
    'date-differs': 3,
    'odd-input': 3,
    'wording-differs': 3,
    'other-page': 2,
    'found-elsewhere': 3,
  },
};
