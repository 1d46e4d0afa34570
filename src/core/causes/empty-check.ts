import type { Cause } from './cause.ts';

/** The check had nothing to check: it passed, and means nothing. */
export const emptyCheck: Cause = {
  code: 'empty-check',
  for: {},
  against: {},
  doubts: { 'nothing-checked': 5.4 },
};
