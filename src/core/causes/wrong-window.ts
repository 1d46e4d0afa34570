import type { Cause } from './cause.ts';

/** The test was looking at another window, tab or frame than the one it meant. */
export const wrongWindow: Cause = {
  code: 'wrong-window',
  for: { 'no-element-told': 2, 'found-elsewhere': 5.5, 'window-unlooked': 4.2 },
  against: { 'served-without': 3, 'generated-locator': 1.5, 'like-stands-there': 3 },
};
