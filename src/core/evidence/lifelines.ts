import type { ElementEvent, ElementState } from './event.ts';

/**
 * A lifeline is one locator's story: what its first match was, from when to when. A segment lasts
 * until anything about it changed; identity (the node number) tells "replaced" from "changed".
 */
export interface LifelineSegment {
  from: number;
  until: number;
  state: ElementState;
  /** The event that began this segment. */
  event: string;
  kind: ElementEvent['kind'];
  /** The window or frame it was seen in, where that was recorded. */
  context?: string;
}

export interface Lifeline {
  locator: string;
  label: string;
  segments: LifelineSegment[];
}

export type Presence = 'absent' | 'hidden' | 'covered' | 'disabled' | 'visible';

/** One word for a state, the most telling first. */
export function presenceOf(state: ElementState): Presence {
  if (state.node === null) return 'absent';
  if (state.visible === false) return 'hidden';
  if (state.coveredBy) return 'covered';
  if (state.enabled === false) return 'disabled';
  return 'visible';
}

/**
 * Lifelines from the events of the element lane, in the order in which the test first used the locators.
 * @param until end of the attempt in ms, where the last segments end
 */
export function lifelinesOf(events: readonly ElementEvent[], until: number): Lifeline[] {
  const lines = new Map<string, Lifeline>();
  for (const event of [...events].sort((a, b) => a.at - b.at)) {
    const { locator, label, state } = event.data;
    let line = lines.get(locator);
    if (!line) lines.set(locator, (line = { locator, label, segments: [] }));
    if (!line.label) line.label = label;
    const last = line.segments.at(-1);
    if (last) last.until = event.at;
    line.segments.push({
      from: event.at,
      until: Math.max(until, event.at),
      state,
      event: event.id,
      kind: event.kind,
      ...(event.data.context === undefined ? {} : { context: event.data.context }),
    });
  }
  return [...lines.values()];
}

/** The segment a lifeline is in at a time; undefined before it was first watched. */
export function segmentAt(line: Lifeline, at: number): LifelineSegment | undefined {
  let found: LifelineSegment | undefined;
  for (const segment of line.segments) {
    if (segment.from > at) break;
    found = segment;
  }
  return found;
}

/** A name for the element on a lifeline near a time: what it was called then, before, or next. */
export function nameAt(line: Lifeline, at: number): string | undefined {
  const segments = line.segments;
  for (let i = segments.length - 1; i >= 0; i--) {
    const segment = segments[i]!;
    if (segment.from <= at && segment.state.name) return segment.state.name;
  }
  return segments.find((segment) => segment.state.name)?.state.name;
}
