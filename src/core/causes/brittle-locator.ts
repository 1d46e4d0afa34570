import type { Cause } from './cause.ts';

/** The locator depends on a value that a program makes up, or on positions that shift. */
export const brittleLocator: Cause = {
  code: 'brittle-locator',
  for: { 'no-element-told': 1.2, 'generated-locator': 5, 'like-stands-there': 4.6 },
  against: { 'served-without': 3, 'found-elsewhere': 4, 'press-point-covered': 3, 'stale-reference-told': 2 },
};
