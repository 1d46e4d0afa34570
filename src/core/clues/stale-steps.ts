import type { StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';

/**
 * Commands that were answered with a stale reference and after which the test did not simply find
 * again and go on: the failing step, or every one when the failing step is not known.
 */
export function staleSteps(evidence: Evidence): StepEvent[] {
  const stale = evidence.steps.filter((step) => step.data.error?.code === 'stale element reference');
  const failing = evidence.failing;
  return failing && stale.includes(failing) ? [failing] : stale.filter((step) => !evidence.insideWait.has(step.id));
}

/** The find that gave the element a step used. */
export function foundStep(evidence: Evidence, step: StepEvent): StepEvent | undefined {
  if (step.data.foundBy) return evidence.steps.find((other) => other.id === step.data.foundBy);
  return evidence.steps.findLast(
    (other) => other.at < step.at && other.data.action === 'find' && other.data.element === step.data.element,
  );
}
