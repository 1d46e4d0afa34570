import type { Cause } from './cause.ts';

/** Read or checked a value before it had settled. A false pass counts: see `doubts`. */
export const earlyCheck: Cause = {
  code: 'early-check',
  for: {
    'fewer-than-expected': 2.6,
    'part-of-expected': 0.8,
    'answered-out-of-order': 1,
    'screen-blank': 0.8,
    'picture-broken': 0.4,
    'changed-to-expected': 5.5,
    'read-while-under-way': 4.2,
    'slept-before': 0.6,
    'placeholder-read': 2.8,
  },
  against: {
    'served-without': 3,
    'navigation-cut-off': 3.5,
    'settled-at-check': 3.5,
    'stale-reference-told': 3,
    'still-on-page-before': 2.5,
    'page-on-the-way': 2,
    'press-point-covered': 4,
    'acted-while-under-way': 2.2,
    'acted-before-script': 2,
    'own-request-failed': 3,
    'typed-not-held': 2,
    'step-left-out': 2,
    'found-elsewhere': 4,
    'view-on-the-way': 5,
    'error-swallowed': 2,
  },
  doubts: { 'changed-after-check': 5.2, 'appeared-after-check': 5.2 },
};
