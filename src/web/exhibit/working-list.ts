import { bareAddress } from '../../core/formats/address.ts';
import type { ConsoleEvent, NetworkEvent } from '../../core/evidence/event.ts';
import { endOf } from '../../core/evidence/event.ts';
import { pathOf } from '../../core/evidence/labels.ts';
import { linePattern, requestPattern, type Usual } from '../../core/evidence/usual.ts';
import { isFailed, waitedFor } from '../scaffold/drawing.ts';

/** What narrows the lists of console lines and requests; all of it stands in the address. */
export interface ListFilter {
  words: string;
  /** Of console lines: a level; of requests: `failed`. */
  only: string;
  /** Of console lines: where from; of requests: the host. */
  from: string;
  /** Not seen in passing attempts. */
  fresh: boolean;
  /** Requests in flight at the level. */
  inFlight: boolean;
  /** Within the marked stretch of time. */
  range: { from: number; until: number } | null;
}

export const noFilter: ListFilter = { words: '', only: '', from: '', fresh: false, inFlight: false, range: null };

/** Where a line was logged: the file without its address's host and its line. */
export const sourceOf = (line: ConsoleEvent): string =>
  bareAddress(
    (line.data.source ?? '')
      .replace(/(?<!\d):\d{1,9}(?::\d{1,9})?$/, '')
      .split('/')
      .at(-1)!,
  );

const inRange = (at: number, until: number, range: ListFilter['range']): boolean =>
  !range || (at <= range.until && until >= range.from);
const holds = (text: string, words: string): boolean =>
  words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.toLowerCase().includes(word));

export interface Listed<E> {
  event: E;
  /** Not seen in any passing attempt; undefined when there is none to compare with. */
  fresh: boolean | undefined;
}

export function linesFor(
  lines: readonly ConsoleEvent[],
  filter: ListFilter,
  usual: Usual | undefined,
): Listed<ConsoleEvent>[] {
  const known = usual?.attempts ? new Set(usual.lines) : undefined;
  return lines
    .map((event) => ({ event, fresh: known && !known.has(linePattern(event)) }))
    .filter(
      ({ event, fresh }) =>
        (!filter.only || event.data.level === filter.only) &&
        (!filter.from || sourceOf(event) === filter.from) &&
        (!filter.fresh || fresh !== false) &&
        inRange(event.at, event.at, filter.range) &&
        holds(`${event.data.text} ${event.data.source ?? ''}`, filter.words),
    );
}

export function requestsFor(
  requests: readonly NetworkEvent[],
  filter: ListFilter,
  usual: Usual | undefined,
  level: number,
): Listed<NetworkEvent>[] {
  const known = usual?.attempts ? new Set(usual.requests) : undefined;
  return requests
    .map((event) => ({ event, fresh: known && !known.has(requestPattern(event)) }))
    .filter(
      ({ event, fresh }) =>
        (!filter.only || isFailed(event)) &&
        (!filter.from || event.data.host === filter.from) &&
        (!filter.fresh || fresh !== false) &&
        (!filter.inFlight || (event.at <= level && endOf(event) >= level)) &&
        inRange(event.at, endOf(event), filter.range) &&
        holds(
          `${event.data.method} ${event.data.url} ${event.data.status ?? ''} ${event.data.failed ?? ''}`,
          filter.words,
        ),
    );
}

/** A line as text for the developer: when, how loud, what, where from. */
export const lineText = ({ at, data }: ConsoleEvent): string =>
  `${(at / 1000).toFixed(3)} s  ${data.level.padEnd(7)}  ${data.suppressed ? 'suppressed: ' : ''}${data.text}${data.source ? `  (${data.source})` : ''}${data.stack ? `\n${data.stack}` : ''}`;

/** A request as text for the developer: when, what, how it ended, how long it took and waited. */
export function requestText(event: NetworkEvent): string {
  const { data, at } = event;
  const waited = waitedFor(event);
  const ended = data.failed ?? data.status ?? 'no status';
  return `${(at / 1000).toFixed(3)} s  ${data.method} ${data.url}  ${ended}  ${Math.round(endOf(event) - at)} ms${waited === undefined ? '' : ` (first byte after ${Math.round(waited)} ms)`}`;
}

/** How a request ended, in a word or two. */
export function endedWords({ data }: NetworkEvent): string {
  if (data.failed) return data.failed.replace(/^net::/, '');
  if (!data.status) return 'no answer told';
  const body = data.bodyEnd === 'let go' ? ', let go by the page' : data.bodyEnd ? ', its body’s end not seen' : '';
  return `${data.status}${data.fromCache ? ' from the cache' : ''}${body}`;
}

export const shortUrl = ({ data }: NetworkEvent): string =>
  data.own ? pathOf(data.url) : data.url.replace(/^https?:\/\//, '');
