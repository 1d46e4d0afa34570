import type { Sketch, SketchStep } from '../contrast/sketch.ts';
import type { Evidence } from '../evidence/prepare.ts';

/** An attempt as remedies look at it: its evidence, and the steps it is lined up by. */
export interface Told {
  id: string;
  evidence: Evidence;
  sketch: Sketch;
}

/** One attempt at one of its steps. */
export interface Moment {
  told: Told;
  step: SketchStep;
  /** When whatever had to be so had to be so, ms: when the step was carried out, or began to look. */
  at: number;
}

/** A thing to open on the bench. */
export interface Shown {
  attempt: string;
  event: string;
  at: number;
}

export const momentAt = (told: Told, step: SketchStep, early = false): Moment => ({
  told,
  step,
  at: early ? step.at : carriedOut(told, step),
});

/** When a step was carried out: a find that belongs to it has come first. */
function carriedOut({ evidence }: Told, step: SketchStep): number {
  return evidence.steps.find((event) => event.id === step.events[0])?.at ?? step.at;
}
