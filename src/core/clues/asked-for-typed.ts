import { endOf, type NetworkEvent, type StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';

/** A page that throws the answer away because the choice was made never renders it; the request then still tells. */
export const startedBefore = 3000;
/** Pages wait so long at most before they ask for what was typed, ms. */
const soonMs = 400;
const leastTyped = 2;

/**
 * Tells which requests ask for what was typed right before a step: a page waits for a moment until nothing more is typed, so
 * it may still be about to ask when the step comes.
 */
export function asksForTyped(evidence: Pick<Evidence, 'steps'>, step: StepEvent): (request: NetworkEvent) => boolean {
  const typed = evidence.steps.findLast((one) => one.at < step.at && one.data.action === 'type');
  if (!typed || step.at - endOf(typed) >= startedBefore) return () => false;
  return (request) => request.at <= step.at + soonMs && carries(request, typed);
}

/** A request whose query holds what was typed was made for that, and not for what was done next. */
export function carries({ data }: NetworkEvent, { data: { input = '' } }: StepEvent): boolean {
  const query = data.url.split('?')[1];
  if (query === undefined || input.length < leastTyped) return false;
  return [...new URLSearchParams(query).values()].includes(input);
}
