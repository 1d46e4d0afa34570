import type { GivenAnswer, KeptAnswers } from '../../browser/stress/requests.ts';
import { requestKey } from '../../core/contrast/sketch.ts';
import { eventsOf, type EvidenceEvent } from '../../core/evidence/event.ts';
import { maskMark } from '../../core/evidence/masking.ts';
import type { Store } from '../store/store.ts';

/** Answers larger than this are not given again, characters. */
const longestBody = 400_000;
const mostDiffering = { new: 4, rare: 2, varies: 3 } as const;

/** Answers of this status have no body. */
const withoutBody: ReadonlySet<number> = new Set([204, 205]);

/** A body that is there whole, and as it was: what was masked in it would be another answer. */
function wholeBody(
  store: Store,
  attempt: string,
  exchange: string,
  status: number | undefined,
): { text: string; mime: string } | undefined {
  if (status !== undefined && withoutBody.has(status)) return { text: '', mime: '' };
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
      const status = event?.data.status;
      const body = event && wholeBody(store, attempt, exchange, status);
      known.set(
        key,
        body && status !== undefined
          ? { status, ...(body.mime ? { mime: body.mime } : {}), body: body.text }
          : undefined,
      );
    }
    return known.get(key);
  };
}

/** How an answer differs: from all that passing attempts got · from most of theirs · as theirs differ among themselves. */
export type HowItDiffers = 'new' | 'rare' | 'varies';

export interface Differing {
  key: string;
  attempt: string;
  exchange: string;
  /** The how-many-th answer to this request was the first that was another one, from 1. */
  from: number;
  how: HowItDiffers;
}

/** An answer was of so few of the passing attempts that got one, and is rare among them. */
const rareShare = 0.4;

/** What passing attempts were answered when they asked for one thing. */
class Usual {
  /** Of each answer, by status and body, the attempts that got it. */
  private readonly answers = new Map<string, Set<string>>();
  private readonly attempts = new Set<string>();

  add(attempt: string, answer: string): void {
    this.attempts.add(attempt);
    (this.answers.get(answer) ?? this.answers.set(answer, new Set()).get(answer)!).add(attempt);
  }

  /** How another answer differs from these, if it does. Answers that differ each time hold the time, or what was drawn: then it tells less. */
  differs(answer: string): HowItDiffers | undefined {
    const same = this.answers.get(answer)?.size ?? 0;
    if (same > 0) return same < this.attempts.size * rareShare ? 'rare' : undefined;
    return this.answers.size >= Math.max(2, this.attempts.size) ? 'varies' : 'new';
  }
}

/** What is asked for by the page or its scripts and holds what it shows. */
const telling: ReadonlySet<string> = new Set(['document', 'fetch', 'xhr']);

/**
 * Requests whose answer held something else in an attempt that failed than in those that passed.
 * @param events what was recorded of each attempt
 * @param near keys of requests that the failing step's target waits for, nearest first: these come first, then the latest
 * @returns the likeliest first: what no passing attempt got, what few of them got, then what differs from visit to visit
 */
export function differingAnswers(
  store: Store,
  failing: string,
  passing: readonly string[],
  events: (attempt: string) => readonly EvidenceEvent[],
  near: readonly string[],
): Differing[] {
  const asked = (attempt: string): { key: string; id: string; path: string; status: number | undefined }[] => {
    const own = eventsOf(events(attempt), 'network').filter(({ data }) => data.own);
    const sent = Math.min(...own.filter(({ data }) => data.method !== 'GET').map(({ at }) => at), Infinity);
    return (
      own
        .filter(({ data }) => telling.has(data.type ?? '') && data.status !== undefined)
        // A page that comes after something was sent shows what came of that.
        .filter(({ at, data }) => data.type !== 'document' || at < sent)
        .map((event) => ({
          key: requestKey(event),
          id: event.id,
          path: pathOf(event.data.url),
          status: event.data.status,
        }))
    );
  };
  const usual = new Map<string, Usual>();
  const paths = new Set<string>();
  for (const attempt of passing)
    for (const { key, id, path, status } of asked(attempt)) {
      paths.add(path);
      const body = wholeBody(store, attempt, id, status);
      if (body) (usual.get(key) ?? usual.set(key, new Usual()).get(key)!).add(attempt, `${status} ${body.text}`);
    }
  const found = new Map<string, Differing>();
  const times = new Map<string, number>();
  for (const { key, id, path, status } of asked(failing)) {
    const nth = (times.get(key) ?? 0) + 1;
    times.set(key, nth);
    // What passing attempts did not ask for was asked for because it went wrong already.
    if (!paths.has(path)) continue;
    const body = wholeBody(store, failing, id, status);
    const how = body && usual.get(key)?.differs(`${status} ${body.text}`);
    if (!how) continue;
    // Each answer that differs from visit to visit is one of its own; the others stay as they became.
    const name = how === 'varies' ? `${nth} ${key}` : key;
    const from = how === 'varies' ? nth : (found.get(name)?.from ?? nth);
    found.set(name, { key, attempt: failing, exchange: id, from, how });
  }
  const rank = ({ key }: Differing): number => (near.includes(key) ? near.indexOf(key) : near.length);
  const all = [...found.values()].reverse().sort((a, b) => rank(a) - rank(b));
  return (['new', 'rare', 'varies'] as const).flatMap((how) =>
    all.filter((one) => one.how === how).slice(0, mostDiffering[how]),
  );
}
