import type { Cause } from './cause.ts';

/** The locator matches several elements and the wrong one came first. */
export const looseLocator: Cause = {
  code: 'loose-locator',
  for: {
    'another-heading': 1.2,
    'other-of-several': 5,
    'several-match': 3,
    'pressed-of-several-shown': 1.8,
    'other-page': 1.2,
  },
  against: {
    'view-on-the-way': 4,
    'stale-reference-told': 2,
    'found-elsewhere': 2,
    // The same locator came to the expected thing by itself a moment later.
    'wrong-choice-kept': 3,
    'acted-while-under-way': 3.6,
    'acted-before-arrival': 3,
    'acted-before-reaction': 8,
  },
};
