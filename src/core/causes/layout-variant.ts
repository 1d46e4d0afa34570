import type { Cause } from './cause.ts';

/** The layout at this size or in this engine hides the target or moves it out of reach. */
export const layoutVariant: Cause = {
  code: 'layout-variant',
  for: { 'target-hidden': 3.2, 'size-differs': 3, 'not-interactable-told': 1.5 },
  against: { 'stale-reference-told': 2, 'found-elsewhere': 2 },
};
