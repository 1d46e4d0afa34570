import { askedAgain } from '../contrast/asked-again.ts';
import type { Sketch, SketchRequest, SketchStep } from '../contrast/sketch.ts';
import { isOrnament } from '../clues/relevance.ts';
import { median } from '../stats/median.ts';
import { wilson, type Rate } from '../stats/wilson.ts';

/** One sign that a page is ready: once it is there, what tests use of the page is there too. */
export interface ReadySign {
  kind: 'answer' | 'quiet' | 'console' | 'element';
  /** `GET /api/fare`, a line of the console, a locator; empty for quiet. */
  subject: string;
  /** In a sentence: “GET /api/fare has answered”. */
  words: string;
  /** As a drill waits for it; absent where its language has no words for it. */
  condition?: string;
  /** In how many visits it came, and all that was used was there by then; of how many; the rate with its interval. */
  held: number;
  of: number;
  rate: Rate;
  /** How long after the last thing used it comes, ms, in the middle; what waits for it waits that much longer. */
  lateMs: number;
}

/** What is known of when one page of an application is ready. */
export interface PageReadiness {
  page: string;
  visits: number;
  tests: number;
  /** The surest first. */
  signs: ReadySign[];
}

/** What is made of an answer, or said with a line, stands there within this, ms. */
const shownWithinMs = 80;
/** What a page asks for within this of its beginning belongs to its coming up, ms. */
const comingUpMs = 1500;
/** A page that came so seldom is not told of. */
const fewestVisits = 3;
/** More signs of one page help nobody; one that holds less surely than this is none. */
const mostSigns = 4;
const leastSure = 0.5;

const deeds: ReadonlySet<string> = new Set(['press', 'type', 'clear', 'keys', 'dialog']);

interface Visit {
  test: string;
  /** When each thing that was used of the page came, by its locator. */
  came: { locator: string | undefined; at: number }[];
  signs: Map<string, { sign: Pick<ReadySign, 'kind' | 'subject'>; at: number }>;
}

/**
 * The signs by which the pages of an application tell that they are ready, found over passing attempts of all its tests. A
 * sign held in a visit when it came and, within a few frames, everything that the test used of the page before it did
 * something there had come. What was there from the beginning tells nothing, and such visits do not count.
 * @param attempts that passed, each with its test
 * @returns pages by how often they were visited
 */
export function readinessOf(attempts: readonly { test: string; sketch: Sketch }[]): PageReadiness[] {
  const pages = new Map<string, Visit[]>();
  const again = askedAgain(attempts.map(({ sketch }) => sketch));
  for (const { test, sketch } of attempts)
    for (const { page, visit } of visitsOf(test, sketch, again)) {
      const list = pages.get(page);
      if (list) list.push(visit);
      else pages.set(page, [visit]);
    }
  return [...pages]
    .filter(([, visits]) => visits.length >= fewestVisits)
    .map(([page, visits]) => ({
      page,
      visits: visits.length,
      tests: new Set(visits.map(({ test }) => test)).size,
      signs: signsOf(visits),
    }))
    .filter(({ signs }) => signs.length > 0)
    .sort((a, b) => b.visits - a.visits);
}

function signsOf(visits: readonly Visit[]): ReadySign[] {
  const keys = new Set(visits.flatMap(({ signs }) => [...signs.keys()]));
  return [...keys]
    .map((key): ReadySign => {
      const { sign } = visits.find(({ signs }) => signs.has(key))!.signs.get(key)!;
      const told = visits.filter((visit) => readyAt(visit, sign) !== undefined);
      const seen = told.flatMap((visit) => {
        const one = visit.signs.get(key);
        return one ? [{ late: one.at - readyAt(visit, sign)! }] : [];
      });
      const held = seen.filter(({ late }) => late >= -shownWithinMs).length;
      return {
        ...sign,
        ...saidOf(sign),
        held,
        of: told.length,
        rate: wilson(held, told.length),
        lateMs: Math.max(0, seen.length ? median(seen.map(({ late }) => late)) : 0),
      };
    })
    .filter(({ rate }) => rate.low >= leastSure)
    .sort((a, b) => b.rate.low - a.rate.low || a.lateMs - b.lateMs)
    .slice(0, mostSigns);
}

/** When all that was used had come, what the sign itself is about aside: a sign is not its own witness. */
function readyAt({ came }: Visit, { kind, subject }: Pick<ReadySign, 'kind' | 'subject'>): number | undefined {
  const others = came.filter(({ locator }) => kind !== 'element' || locator !== subject);
  return others.length ? Math.max(...others.map(({ at }) => at)) : undefined;
}

/** Text between quotes of a drill. */
const quoted = (text: string): string => JSON.stringify(text);
/** The part of a request's key before what varies in it: as a drill looks for it. */
const plainPart = (key: string): string => key.replace(/^\S+ (?:\S+ )?(?=\/)/, '').split('#')[0]!;

function saidOf({ kind, subject }: Pick<ReadySign, 'kind' | 'subject'>): Pick<ReadySign, 'words' | 'condition'> {
  switch (kind) {
    case 'answer':
      return { words: `${subject} has answered`, condition: `request ${quoted(plainPart(subject))} is answered` };
    case 'quiet':
      return { words: 'all that the page asks for as it comes up has answered', condition: 'all is quiet for 100 ms' };
    case 'console':
      return { words: `the console says “${subject}”`, condition: `console says ${quoted(subject)}` };
    case 'element':
      return { words: `${subject.replace(/^css=/, '')} is there`, ...conditionOf(subject) };
  }
}

function conditionOf(key: string): Pick<ReadySign, 'condition'> {
  const [, by, value] = /^(css|xpath|link|tag)=([^>]+)$/.exec(key) ?? [];
  return by ? { condition: `${by} ${quoted(value!)} is there` } : {};
}

/** The visits of pages in one attempt in which something that was used was seen to come. */
function visitsOf(test: string, sketch: Sketch, again: ReadonlySet<string>): { page: string; visit: Visit }[] {
  const out: { page: string; visit: Visit }[] = [];
  const { steps } = sketch;
  for (let i = 0; i < steps.length;) {
    const { page } = steps[i]!;
    let end = i + 1;
    while (end < steps.length && steps[end]!.page === page && steps[end]!.action !== 'open') end++;
    if (page !== undefined) {
      const bounds = { from: i ? steps[i - 1]!.at : 0, until: steps[end]?.at ?? sketch.until };
      const seen = signsSeen(sketch, steps.slice(i, end), bounds, again);
      if (seen) out.push({ page, visit: { test, ...seen } });
    }
    i = end;
  }
  return out;
}

/** What was seen in one visit; nothing where nothing that was used was seen to come. */
function signsSeen(
  sketch: Sketch,
  steps: readonly SketchStep[],
  { from, until }: { from: number; until: number },
  again: ReadonlySet<string>,
): Pick<Visit, 'came' | 'signs'> | undefined {
  // Up to the first thing done there: what comes upon that is no matter of the page's coming up.
  const first = steps.findIndex(({ action, error }) => deeds.has(action) && !error);
  const used = first < 0 ? steps : steps.slice(0, first + 1);
  const came = used.flatMap(({ locator, arrived, polls, until: ended, error }) => {
    const at = error ? undefined : polls ? ended : arrived;
    return at !== undefined && at >= from ? [{ locator, at }] : [];
  });
  if (came.length === 0) return undefined;
  const signs: Visit['signs'] = new Map();
  const put = (kind: ReadySign['kind'], subject: string, at: number): void => {
    const key = `${kind} ${subject}`;
    if (!signs.has(key)) signs.set(key, { sign: { kind, subject }, at });
  };
  const asked = askedBy(sketch, from, Math.min(until, from + comingUpMs), again);
  for (const { key, until: at } of asked) put('answer', key, at);
  if (asked.length) put('quiet', '', Math.max(...asked.map(({ until: at }) => at)));
  for (const { level, key, text, at } of sketch.console)
    if ((level === 'info' || level === 'debug') && key === text && at >= from && at <= until) put('console', text, at);
  for (const { polls, locator, until: at, error } of used)
    if (polls && locator && !error && !/\d/.test(locator)) put('element', locator, at);
  return { came, signs };
}

/** What a page asked for as it came up, and was answered well; not what it asks for again and again. */
function askedBy({ requests }: Sketch, from: number, until: number, again: ReadonlySet<string>): SketchRequest[] {
  return requests.filter(
    ({ key, at, own, type, ended }) =>
      own &&
      at >= from &&
      at <= until &&
      !isOrnament(type) &&
      type !== 'document' &&
      ended === '2xx' &&
      !again.has(key),
  );
}

/** The best that is known of a page; undefined where nothing is. */
export const readinessOfPage = (all: readonly PageReadiness[], page: string | undefined): PageReadiness | undefined =>
  all.find((one) => one.page === page);
