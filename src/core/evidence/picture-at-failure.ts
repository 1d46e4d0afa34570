import { endOf, eventsOf, type EvidenceEvent, type ScreenEvent } from './event.ts';

/** A screenshot of a failure is taken after it, by whoever heard of it; later than this it shows something else, ms. */
const takenWithinMs = 1500;

/**
 * The picture that shows the window when an attempt failed: the last one before the failure or, where there is
 * none, the first one right after it. Pictures of single elements and videos do not count.
 * @returns undefined when no picture can show it
 */
export function pictureAtFailure(events: readonly EvidenceEvent[]): ScreenEvent | undefined {
  const pictures = eventsOf(events, 'screen').filter(({ kind, data }) => kind !== 'video' && !data.part);
  if (pictures.length === 0) return undefined;
  const steps = eventsOf(events, 'step').filter(({ kind }) => kind === 'command');
  const check = eventsOf(events, 'note').findLast(({ kind, data }) => kind === 'check' && data.ok === false);
  const last = steps.findLast(({ data }) => data.error) ?? steps.findLast(({ data }) => data.action === 'read');
  const failed = Math.max(check?.at ?? -1, last ? endOf(last) : -1);
  // Without a step or a check nobody knows when it failed: what was shown last is the best there is.
  if (failed < 0) return pictures.at(-1);
  return pictures.findLast(({ at }) => at <= failed) ?? pictures.find(({ at }) => at <= failed + takenWithinMs);
}
