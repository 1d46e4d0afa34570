import type { Sketch, SketchStep } from '../contrast/sketch.ts';
import type { StepEvent } from '../evidence/event.ts';
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
  // A find that belongs to it has come first.
  at: early ? step.at : (commandOf(told, step)?.at ?? step.at),
});

/** The command that a step was drawn from; none for a wait that was inferred. */
export const commandOf = ({ evidence }: Told, step: SketchStep): StepEvent | undefined =>
  evidence.steps.find(({ id }) => id === step.events[0]);
