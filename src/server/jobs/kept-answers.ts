import type { GivenAnswer, KeptAnswers } from '../../browser/stress/requests.ts';
import { requestKey } from '../../core/contrast/sketch.ts';
import { eventsOf, type EvidenceEvent } from '../../core/evidence/event.ts';
import { maskMark } from '../../core/evidence/masking.ts';
import type { Store } from '../store/store.ts';

/** Answers larger than this are not given again, characters. */
const longestBody = 400_000;
const mostDiffering = 4;

/** A body that is there whole, and as it was: what was masked in it would be another answer. */
function wholeBody(store: Store, attempt: string, exchange: string): { text: string; mime: string } | undefined {
  const body = eventsOf(store.events.bodies(attempt, exchange), 'body').find(
    ({ data }) => data.of === 'response',
  )?.data;
  if (!body || body.length > longestBody || body.text.length !== body.length || body.text.includes(maskMark))
    return undefined;
  return { text: body.text, mime: body.mime };
}

/** An address without its query, as it was asked for: of one thing and not of its kind. */
const pathOf = (url: string): string => url.split(/[?#]/, 1)[0]!;

/** The answers that attempts got, as they were kept; each looked up once. */
export function keptAnswers(store: Store): KeptAnswers {
  const known = new Map<string, GivenAnswer | undefined>();
  return (attempt, exchange) => {
    const key = `${attempt} ${exchange}`;
    if (!known.has(key)) {
      const event = eventsOf(store.events.recorded(attempt), 'network').find(({ id }) => id === exchange);
      const body = event && wholeBody(store, attempt, exchange);
      const status = event?.data.status;
      known.set(key, body && status !== undefined ? { status, mime: body.mime, body: body.text } : undefined);
    }
    return known.get(key);
  };
}

export interface Differing {
  key: string;
  attempt: string;
  exchange: string;
  /** The how-many-th answer to this request was the first that was another one, from 1. */
  from: number;
}

/**
 * Requests whose answer held something else in an attempt that failed than in any of those that passed.
 * @param events what was recorded of each attempt
 * @param near keys of requests that the failing step's target waits for, nearest first: these come first, then the latest
 */
export function differingAnswers(
  store: Store,
  failing: string,
  passing: readonly string[],
  events: (attempt: string) => readonly EvidenceEvent[],
  near: readonly string[],
): Differing[] {
  const asked = (attempt: string): { key: string; id: string; path: string }[] =>
    eventsOf(events(attempt), 'network')
      .filter(({ data }) => data.own && (data.type === 'fetch' || data.type === 'xhr') && data.status !== undefined)
      .map((event) => ({ key: requestKey(event), id: event.id, path: pathOf(event.data.url) }));
  const usual = new Map<string, Set<string>>();
  const seenBy = new Map<string, Set<string>>();
  const paths = new Set<string>();
  for (const attempt of passing)
    for (const { key, id, path } of asked(attempt)) {
      paths.add(path);
      const body = wholeBody(store, attempt, id);
      if (!body) continue;
      (usual.get(key) ?? usual.set(key, new Set()).get(key)!).add(body.text);
      (seenBy.get(key) ?? seenBy.set(key, new Set()).get(key)!).add(attempt);
    }
  const found = new Map<string, Differing>();
  const times = new Map<string, number>();
  for (const { key, id, path } of asked(failing)) {
    const nth = (times.get(key) ?? 0) + 1;
    times.set(key, nth);
    // What passing attempts did not ask for was asked for because it went wrong already.
    if (!paths.has(path)) continue;
    const body = wholeBody(store, failing, id);
    const known = usual.get(key);
    // Where passing attempts differ among themselves, differing tells less: such answers hold the time, or numbers drawn.
    if (!body || !known || known.has(body.text) || known.size >= Math.max(2, seenBy.get(key)!.size)) continue;
    found.set(key, { key, attempt: failing, exchange: id, from: found.get(key)?.from ?? nth });
  }
  const rank = ({ key }: Differing): number => (near.includes(key) ? near.indexOf(key) : near.length);
  return [...found.values()]
    .reverse()
    .sort((a, b) => rank(a) - rank(b))
    .slice(0, mostDiffering);
}
