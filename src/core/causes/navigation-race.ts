import type { Cause } from './cause.ts';

/** Acted or checked while the navigation that the step before had begun was under way. */
export const navigationRace: Cause = {
  code: 'navigation-race',
  for: {
    'another-heading': 2.8,
    'screen-blank': 0.6,
    'page-on-the-way': 4.5,
    'navigation-cut-off': 5.2,
    'still-on-page-before': 5,
    'view-on-the-way': 6,
  },
  against: {
    'other-page': 3,
    'settled-at-check': 1,
    'found-elsewhere': 4,
    'window-unlooked': 3,
    'own-request-failed': 3,
    'stale-reference-told': 1,
  },
};
