import type { Cause } from './cause.ts';

/** An outside service failed, was blocked or did not answer. */
export const thirdPartyOutage: Cause = {
  code: 'third-party-outage',
  for: { 'trouble-told': 1.4, 'outside-failed': 5.8 },
  against: {},
};
