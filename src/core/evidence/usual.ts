import { bareAddress } from '../formats/address.ts';
import { normaliseMessage } from '../families/fingerprint.ts';
import type { ConsoleEvent, EvidenceEvent, NetworkEvent } from './event.ts';

/** What passing attempts of a test usually log and ask for: what is not among it is new. */
export interface Usual {
  /** How many passing attempts were looked at. */
  attempts: number;
  lines: string[];
  requests: string[];
}

/** A console line without what varies from attempt to attempt: numbers, ids, quoted data. */
export const linePattern = (line: ConsoleEvent): string => `${line.data.level} ${normaliseMessage(line.data.text)}`;

/** A request without what varies: ids and numbers in its path, its query; how it ended belongs to it. */
export function requestPattern({ data }: NetworkEvent): string {
  const path = bareAddress(data.url.replace(/^[a-z]+:\/\/[^/]+/i, ''));
  const ended = data.failed ? 'failed' : `${Math.floor((data.status ?? 0) / 100)}xx`;
  const host = data.own ? 'own' : data.host;
  return `${data.method} ${host} ${path
    .split('/')
    .map((part) => (/\d/.test(part) ? '#' : part))
    .join('/')} ${ended}`;
}

/** @param passing the events of passing attempts, one list an attempt */
export function usualOf(passing: Iterable<readonly EvidenceEvent[]>): Usual {
  const lines = new Set<string>();
  const requests = new Set<string>();
  let attempts = 0;
  for (const events of passing) {
    attempts++;
    for (const event of events) {
      if (event.lane === 'console') lines.add(linePattern(event));
      else if (event.lane === 'network') requests.add(requestPattern(event));
    }
  }
  return { attempts, lines: [...lines], requests: [...requests] };
}
