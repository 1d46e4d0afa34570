import type { Cause } from './cause.ts';

/** A dialog stood in the way. */
export const unexpectedDialog: Cause = {
  code: 'unexpected-dialog',
  for: { 'dialog-in-the-way': 6 },
  against: {},
};
