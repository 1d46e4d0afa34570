import { endOf, type PageEvent, type StepEvent } from './event.ts';
import { fileName } from './file-path.ts';
import { segmentAt } from './lifelines.ts';
import { locatorKey } from './locator.ts';
import type { Evidence } from './prepare.ts';

/** How long after the last key a field may still be on its way to what was typed, ms. */
const settleMs = 30;

/** A page tells of what a field holds within this, ms. */
const cutShortMs = 100;

/** What a field held after it was typed into. */
export interface Held {
  text: string;
  at: number;
  event: string;
}

const remembered = new WeakMap<readonly PageEvent[], PageEvent[]>();

/** Reports of fields about what they hold, picked out of the page's events once. */
function reportsOf(page: readonly PageEvent[]): PageEvent[] {
  let reports = remembered.get(page);
  if (!reports) remembered.set(page, (reports = page.filter((event) => event.kind === 'held-value')));
  return reports;
}

/**
 * What the field held that a step typed into, before the next step that types, empties or leaves.
 * @returns undefined when nobody saw, or for keys and secrets, which no field holds as they were typed
 */
export function heldAfter({ steps, page, lifelines }: Evidence, step: StepEvent): Held | undefined {
  const typed = step.data.input;
  const plain =
    step.data.action === 'type' &&
    !step.data.error &&
    typed &&
    !typed.includes('«masked»') &&
    !/[\uE000-\uF8FF]/.test(typed);
  if (!plain) return undefined;
  const next = steps.find((one) => one.at > step.at && ['type', 'clear', 'open', 'navigate'].includes(one.data.action));
  const end = next?.at ?? Infinity;
  const anew = drawnAnew({ steps, lifelines }, step, end);
  if (anew) return anew;
  const reports = reportsOf(page).filter((event) => event.at >= step.at && event.at < end);
  // The field is the one that first reported while it was being typed into; others report of themselves.
  const field = reports.find((event) => event.at <= endOf(step) + settleMs)?.data.label;
  if (field === undefined) return undefined;
  const own = reports.filter((event) => event.data.label === field);
  const last =
    own.findLast((event) => event.at >= endOf(step) - settleMs && event.data.text !== undefined) ?? own.at(-1);
  // Typed on by the next step before the page told of the last letters: nobody saw what it came to.
  const isCutShort = next?.data.action === 'type' && last !== undefined && typed.startsWith(last.data.text ?? '');
  if (isCutShort && next.at - endOf(step) < cutShortMs) return undefined;
  return last?.data.text === undefined ? undefined : { text: last.data.text, at: last.at, event: last.id };
}

/**
 * The field was drawn anew over what had been typed, before the test went on: what the new one was drawn with is what
 * it holds. A form that empties itself after it was sent is not meant: a press ends the looking.
 */
function drawnAnew(
  { steps, lifelines }: Pick<Evidence, 'steps' | 'lifelines'>,
  step: StepEvent,
  end: number,
): Held | undefined {
  const line = step.data.locator && lifelines.get(locatorKey(step.data.locator));
  if (!line) return undefined;
  const acted = steps.find((one) => one.at > step.at && (one.data.action === 'press' || one.data.action === 'keys'));
  const until = Math.min(end, acted?.at ?? Infinity);
  const node = segmentAt(line, step.at)?.state.node;
  const last = line.segments.findLast(({ from }) => from > endOf(step) && from < until);
  const value = last?.state.attrs?.['value'];
  if (node === undefined || !last?.state.node || last.state.node === node || value === undefined) return undefined;
  return { text: value, at: last.from, event: last.event };
}

/** How a file field tells of its file, by the HTML standard: never where it lies. */
const fakePath = 'C:\\fakepath\\';
/** A field may write numbers in its own way, with separators or without leading zeros, and hold more than was typed now. */
export function holds(held: string, typed: string): boolean {
  if (held.includes(typed) || held.includes('«masked»')) return true;
  if (held.startsWith(fakePath)) return held === fakePath + fileName(typed);
  const plain = (text: string): string => text.replace(/[^\p{L}\p{N}]/gu, '').toLowerCase();
  return plain(held) !== '' && plain(held) === plain(typed);
}
