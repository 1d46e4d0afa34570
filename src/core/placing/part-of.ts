import { endOf, type EvidenceEvent } from '../evidence/event.ts';

/** What of something that stood before a part began is part of it too; nothing for what was over by then. */
function standing(event: EvidenceEvent): string | undefined {
  switch (event.lane) {
    case 'element':
      return `element ${event.data.locator} ${event.data.context ?? ''}`;
    case 'window':
      return event.kind === 'opened' ? `window ${event.data.context}` : undefined;
    case 'screen':
      return event.kind === 'frame' ? `screen ${event.data.context ?? ''}` : undefined;
    case 'page':
      return ['navigation-committed', 'title', 'circumstances', 'structure'].includes(event.kind)
        ? `${event.kind} ${event.data.context ?? ''}`
        : undefined;
    default:
      return undefined;
  }
}

/**
 * The part of a recording that lies in a stretch of it, as a recording of its own: what began in it, what was under way when it
 * began, and the last of what stood then (elements, windows, the page, its picture), all from its start.
 * @param events in any order, ms from the recording's start
 */
export function partOf(events: readonly EvidenceEvent[], from: number, until: number): EvidenceEvent[] {
  const before = new Map<string, EvidenceEvent>();
  const within: EvidenceEvent[] = [];
  for (const event of [...events].sort((a, b) => a.at - b.at)) {
    if (event.at >= until) break;
    if (event.at >= from || (event.lane === 'network' && endOf(event) > from)) within.push(event);
    else {
      const key = standing(event);
      if (key !== undefined) before.set(key, event);
      if (event.lane === 'window' && event.kind === 'closed') before.delete(`window ${event.data.context}`);
    }
  }
  return [...before.values(), ...within].map((event) => ({
    ...event,
    at: Math.max(0, event.at - from),
    ...(event.until === undefined ? {} : { until: Math.max(0, event.until - from) }),
  }));
}
