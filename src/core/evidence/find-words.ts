import { eventsOf, type EvidenceEvent } from './event.ts';

/** Longest text of one column that is searched; beyond it the first part is. */
const most = 120_000;

const joined = (texts: Iterable<string>): string => {
  let out = '';
  for (const text of texts) {
    if (out.length > most) break;
    if (text) out += `${text}\n`;
  }
  return out;
};

/** What an attempt's event is searched by; empty for kinds that are not searched. */
export function wordsOfEvent(event: EvidenceEvent): string {
  switch (event.lane) {
    case 'console':
    case 'body':
      return event.data.text;
    case 'network':
      return `${event.data.method} ${event.data.url} ${event.data.status ?? event.data.failed ?? ''}`;
    case 'step': {
      const { label, locator, input, error } = event.data;
      return [label, locator?.value, input, error?.message].filter(Boolean).join(' ');
    }
    case 'service':
      return event.data.label;
    case 'note':
      return [event.data.label, event.data.expected, event.data.actual].filter(Boolean).join(' ');
    default:
      return '';
  }
}

/** The words of an attempt by where they stand. */
export function findWords(
  events: readonly EvidenceEvent[],
  message: string,
  sentence: string,
): { message: string; console: string; request: string; step: string; note: string } {
  const of = (lane: 'console' | 'network' | 'body' | 'step' | 'note' | 'service'): string =>
    joined(eventsOf(events, lane).map(wordsOfEvent));
  return {
    message: joined([sentence, message.slice(0, 20_000)]),
    console: of('console'),
    request: joined([of('network'), of('body')]),
    step: of('step'),
    note: joined([of('note'), of('service')]),
  };
}
