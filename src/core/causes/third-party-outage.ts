import type { Cause } from './cause.ts';

/** An outside service failed, was blocked or did not answer. */
export const thirdPartyOutage: Cause = {
  code: 'third-party-outage',
  for: { 'outside-failed': 5.8 },
  against: {},
};
