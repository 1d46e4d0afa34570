import type { Cause } from './cause.ts';

/** The test expects the wrong thing. */
export const wrongExpectation: Cause = {
  code: 'wrong-expectation',
  for: { 'same-wrong-value': 3, 'stated-by-page': 2.4, 'wording-differs': 5, 'settled-at-check': 0.8 },
  against: {
    'pressed-of-several-shown': 1.5,
    'value-since-commit': 2,
    'several-match': 1.2,
    'list-in-other-order': 2,
    'changed-to-expected': 4,
    'odd-input': 3.5,
    'another-heading': 2,
    'conflict-told': 3,
    'date-differs': 1.5,
    'read-while-under-way': 2.5,
    'typed-not-held': 3,
    'still-on-page-before': 3,
  },
};
