import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import type { Span } from '../../../core/placing/zones.ts';
import type { Attempt } from '../../../core/records.ts';

/** Shorter names and sentences stand in texts by chance. */
const leastTitle = 12;
const leastMessage = 16;
const mostText = 4 * 1024 * 1024;
const mostPlaces = 2000;
const mostAnchors = 200;
/** Letters that are looked through for names in one delivery: some seconds’ work. */
export const searchBudget = 2e9;

export interface Spoken {
  /** Attempts whose test it names, or whose failure’s words it has. */
  of: Map<string, 'test' | 'failure'>;
  /** Lines that do, with when they should be. */
  anchors: { at: number; span: Span }[];
}

const firstLine = (message: string): string =>
  message
    .split('\n')
    .map((line) => line.trim())
    .find((line) => line.length >= leastMessage)
    ?.slice(0, 120) ?? '';

/** Which tests and failures a log or text speaks of. Names that several tests share say nothing. */
export function spokenIn(
  events: readonly EvidenceEvent[],
  attempts: readonly Attempt[],
  budget: { left: number },
): Spoken {
  const out: Spoken = { of: new Map(), anchors: [] };
  if (attempts.length > mostPlaces) return out;
  const lines = events.flatMap((event) =>
    event.lane === 'console'
      ? [{ at: event.at, text: event.data.text }]
      : event.lane === 'note'
        ? [{ at: event.at, text: event.data.label }]
        : [],
  );
  let text = '';
  for (const line of lines) if (text.length < mostText) text += `${line.text}\n`;
  const cost = 2 * text.length * attempts.length;
  if (!text || cost > budget.left) return out;
  budget.left -= cost;
  const timed = events.some((event) => event.lane === 'console');
  const look = (attempt: Attempt, needle: string, what: 'test' | 'failure', span: Span): void => {
    if (!text.includes(needle)) return;
    if (out.of.get(attempt.id) !== 'failure') out.of.set(attempt.id, what);
    if (!timed) return;
    for (const line of lines)
      if (out.anchors.length < mostAnchors && line.text.includes(needle)) out.anchors.push({ at: line.at, span });
  };
  for (const attempt of attempts) {
    const from = attempt.startedAt;
    const until = from + attempt.durationMs;
    const { title } = attempt.test;
    if (title.length >= leastTitle) look(attempt, title, 'test', { from: from - 1000, until: until + 1000 });
    const message = firstLine(attempt.message);
    if (message) look(attempt, message, 'failure', { from, until: until + 2000 });
  }
  return out;
}
