import type { StepEvent } from './event.ts';
import { locatorKey } from './locator.ts';
import type { Evidence } from './prepare.ts';

/** A frame that the test went into and that nothing else is known of. */
export const unknownFrame = 'a frame';

/**
 * The window or frame the test was looking at when a command came. Where the command does not tell, the
 * windows it went to do, and for frames what it had found there since; a frame it has found nothing in yet
 * has no name, and is none of those that have.
 * @returns a browsing context, `unknownFrame`, or undefined when no window is known
 */
export function lookedAt(evidence: Evidence, step: StepEvent): string | undefined {
  if (step.data.context !== undefined) return step.data.context;
  const { steps, window: windows } = evidence;
  const went = steps.findLast(
    (one) => one.at < step.at && !one.data.error && (one.data.action === 'frame' || one.data.action === 'window'),
  );
  if (!went) return windowBefore(windows, step.at);
  const found = steps.findLast(
    (one) => one.at > went.at && one.at < step.at && !one.data.error && one.data.locator !== undefined,
  );
  const line = found?.data.locator && evidence.lifelines.get(locatorKey(found.data.locator));
  const there = line?.segments.filter((one) => one.state.node !== null);
  const contexts = new Set(there?.flatMap((one) => one.context ?? []));
  if (contexts.size === 1) return [...contexts][0];
  if (went.data.action === 'frame' && !/parent|out of/i.test(went.data.label)) return unknownFrame;
  return windowBefore(windows, step.at);
}

/** The window a test had switched to last, or the first there was. */
function windowBefore(windows: Evidence['window'], at: number): string | undefined {
  const opened = windows.filter((one) => one.kind === 'opened');
  const chosen = windows.findLast(
    (one) => one.kind === 'looked-at' && one.at <= at && opened.some(({ data }) => data.context === one.data.context),
  );
  return (chosen ?? opened[0])?.data.context;
}
