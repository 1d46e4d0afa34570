import { endOf, type PageEvent, type StepEvent } from './event.ts';

/** A press is told by the page at once; clocks differ by a little, ms. */
const soon = 30;

/** The press that a page saw of a step: commands look for their target and move to it first. */
export const landingOf = (page: readonly PageEvent[], step: StepEvent): PageEvent | undefined =>
  page.find(({ kind, at }) => kind === 'press' && at >= step.at && at <= endOf(step) + soon);

/** Requests and presses are told by clocks of their own: what a press asked for may seem to come so much before it, ms. */
const apart = 3;

/** When a step acted on the page: a press when it landed, little before what it asked for; anything else when it began. */
export function actedAt(page: readonly PageEvent[], step: StepEvent): number {
  const landed = step.data.action === 'press' ? landingOf(page, step)?.at : undefined;
  return landed === undefined ? step.at : Math.max(step.at, Math.min(landed, endOf(step)) - apart);
}
