import type { Cause } from './cause.ts';

/** The application threw. */
export const scriptError: Cause = {
  code: 'script-error',
  for: { 'exception-thrown': 5 },
  against: { 'served-without': 3, 'outside-failed': 2.5, 'own-request-failed': 2 },
};
