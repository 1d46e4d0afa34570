import type { Cause } from './cause.ts';

/** Depends on the date, the time of day or the zone. */
export const clockDependent: Cause = {
  code: 'clock-dependent',
  for: { 'served-without': 1.5, 'place-only': 0.3, 'date-differs': 4.4, 'clock-shown': 4.6 },
  against: { 'conflict-told': 2.5, 'other-of-several': 1 },
};
