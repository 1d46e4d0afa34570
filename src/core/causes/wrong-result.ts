import type { Cause } from './cause.ts';

/** The application steadily gives a wrong result. */
export const wrongResult: Cause = {
  code: 'wrong-result',
  for: {
    'same-wrong-value': 3,
    'worked-out': 1.8,
    'value-since-commit': 5,
    'settled-at-check': 1.2,
    'value-alone-differs': 0.8,
  },
  against: {
    'wording-differs': 2.5,
    'date-differs': 1.2,
    'conflict-told': 3,
    'more-than-usual': 1,
    'changed-to-expected': 4,
    'read-while-under-way': 3,
    'still-on-page-before': 3,
    'other-page': 2,
    'odd-input': 2.5,
    'typed-not-held': 3,
    'step-left-out': 3,
    'other-of-several': 3,
    'target-moved': 3,
    'own-request-failed': 3,
    'outside-failed': 3,
    'exception-thrown': 2,
    'target-hidden': 2,
    'generated-locator': 2,
    'page-on-the-way': 2,
    'acted-before-arrival': 3,
    'acted-while-under-way': 2,
    'placeholder-read': 1,
    'error-swallowed': 2,
  },
};
