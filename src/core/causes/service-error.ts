import type { Cause } from './cause.ts';

/** The application's own service failed. */
export const serviceError: Cause = {
  code: 'service-error',
  for: { 'trouble-told': 2.6, 'own-request-failed': 5.4 },
  against: {},
};
