import type { Cause } from './cause.ts';

/** Something else lay over the target: the driver's refusal names it, so one clue is nearly the whole proof. */
export const coveredTarget: Cause = {
  code: 'covered-target',
  for: { 'press-point-covered': 5.5 },
  against: { 'press-point-free': 3 },
};
