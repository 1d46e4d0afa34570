import type { Cause } from './cause.ts';

/** Acted before the page was ready for it: a request, a script or an enabling was still to come. */
export const earlyAction: Cause = {
  code: 'early-action',
  for: {
    'answered-later': 0.5,
    'answered-out-of-order': 1,
    'acted-before-arrival': 4.2,
    'acted-while-under-way': 4.3,
    'acted-on-disabled': 5.2,
    'press-came-to-nothing': 5,
    'acted-before-reaction': 5,
    'acted-before-script': 4.6,
    'wrong-choice-kept': 2,
    'slept-before': 0.3,
  },
  against: {
    'nothing-in-flight': 2,
    'stale-reference-told': 1.5,
    'press-point-covered': 4,
    'typed-not-held': 4.5,
    'view-on-the-way': 3.5,
    'other-page': 1,
    'still-on-page-before': 2.5,
    'wait-ended-under-way': 2,
    'page-kept-asking': 2.5,
    'target-moved': 1.5,
    'own-request-failed': 3,
    'outside-failed': 3,
    'exception-thrown': 2,
    'all-stretched': 4,
    'window-unlooked': 1.5,
    'found-elsewhere': 3,
    'step-left-out': 2.6,
    'error-swallowed': 2,
  },
};
