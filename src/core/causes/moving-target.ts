import type { Cause } from './cause.ts';

/** The target moved, by an animation or a shift of the layout, between being measured and being pressed. */
export const movingTarget: Cause = {
  code: 'moving-target',
  for: { 'target-moved': 5, 'press-reached-other': 2.5 },
  against: { 'press-point-covered': 3, 'stale-reference-told': 2 },
};
