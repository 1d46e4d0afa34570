import type { Sketch } from '../contrast/sketch.ts';

/** In how many of how many attempts something was so. */
export interface Share {
  hits: number;
  of: number;
}

/** What one attempt adds to what is known of the ordinary: facts by the thing they are about. */
interface Seen {
  /** Requests that were made, with how each ended and how long its answer took, ms. */
  requests: Map<string, { ended: Set<string>; ms: number; times: number }>;
  /** Requests that were under way at a step: while it acted, and while it read. */
  during: Record<'act' | 'read', Set<string>>;
  /** Folders of what was asked for, and how answers from each ended. */
  folders: Set<string>;
  endedIn: Set<string>;
  /** What nothing caught, and where it was thrown. */
  thrown: Set<string>;
  dialogs: number;
}

/** Most attempts that are remembered: what is ordinary changes, and more than these tell no better. */
const mostKept = 1500;

/**
 * What happens on any day: how often, in attempts that passed, each kind of request ends how, how long it takes, what
 * is thrown and said. Filled with the passing attempts of all tests of a workspace, the latest that fit; whatever
 * happens as often where nothing failed explains no failure.
 */
export class Ordinary {
  private readonly seen = new Map<string, Seen>();
  private readonly asked = new Map<string, Set<Seen>>();

  get size(): number {
    return this.seen.size;
  }

  /** Adds a passing attempt, in place of what was known of it; the one added longest ago is forgotten where there are too many. */
  take(sketch: Sketch): void {
    this.forget(sketch.id);
    const seen = seenIn(sketch);
    this.seen.set(sketch.id, seen);
    for (const key of seen.requests.keys()) {
      const all = this.asked.get(key);
      if (all) all.add(seen);
      else this.asked.set(key, new Set([seen]));
    }
    if (this.seen.size > mostKept) this.forget(this.seen.keys().next().value!);
  }

  forget(id: string): void {
    const seen = this.seen.get(id);
    if (!seen) return;
    this.seen.delete(id);
    for (const key of seen.requests.keys()) {
      const all = this.asked.get(key)!;
      all.delete(seen);
      if (all.size === 0) this.asked.delete(key);
    }
  }

  /** Of the attempts that asked for something, those in which an answer ended so. @param except an attempt that is not asked */
  ended(key: string, ended: string, except?: string): Share {
    const share = this.share(this.asked.get(key), (one) => one.requests.get(key)!.ended.has(ended), except);
    if (share.of >= fewSeen) return share;
    // What has a name of its own each time is told by what lies beside it.
    const folder = folderOf(key);
    const beside = [...this.seen.values()].filter((one) => one.folders.has(folder));
    const among = this.share(beside, (one) => one.endedIn.has(`${folder} ${ended}`), except);
    return among.hits > 0 ? among : share;
  }

  /** Of the attempts that asked for something, those in which its answer took at least so long, ms, or never came. */
  tookAsLong(key: string, ms: number, except?: string): Share {
    const asLong = (one: { ms: number; ended: ReadonlySet<string> }): boolean => one.ms >= ms || one.ended.has('open');
    return this.share(this.asked.get(key), (one) => asLong(one.requests.get(key)!), except);
  }

  /** Of all attempts, those that asked for something so many times. */
  askedAgain(key: string, times: number, except?: string): Share {
    return this.share(this.seen.values(), (one) => (one.requests.get(key)?.times ?? 0) >= times, except);
  }

  /** Of the attempts that asked for something, those in which the test acted, or read, while it was under way. */
  stepsDuring(key: string, how: 'act' | 'read', except?: string): Share {
    return this.share(this.asked.get(key), (one) => one.during[how].has(key), except);
  }

  dialogs(except?: string): Share {
    return this.share(this.seen.values(), (one) => one.dialogs > 0, except);
  }

  /**
   * The very thing thrown at this place; or, where the same words were thrown at several other places and hurt nobody,
   * those words anywhere: a script that every page has throws from each of them.
   */
  thrown(words: string, from: string | undefined, except?: string): Share {
    const key = thrownKey(words, from);
    const anywhere = thrownKey(words, '');
    const places = new Set<string>();
    const like = this.share(
      this.seen.values(),
      ({ thrown }) => {
        const here = [...thrown].filter((one) => one.startsWith(anywhere));
        here.forEach((one) => places.add(one));
        return here.length > 0;
      },
      except,
    );
    places.delete(key);
    if (places.size >= severalPlaces) return like;
    return this.share(this.seen.values(), (one) => one.thrown.has(key), except);
  }

  private share(list: Iterable<Seen> | undefined, so: (one: Seen) => boolean, except: string | undefined): Share {
    const left = except === undefined ? undefined : this.seen.get(except);
    let [hits, of] = [0, 0];
    for (const one of list ?? []) {
      if (one === left) continue;
      of++;
      if (so(one)) hits++;
    }
    return { hits, of };
  }
}

/** At fewer places the same words may be two faults. */
const severalPlaces = 3;

/** Of fewer attempts that asked for the very same, no share is worth much. */
const fewSeen = 3;

/** What is asked for without the last part of its path; at the top of a site there is nothing beside it. */
const folderOf = (key: string): string => {
  const end = key.lastIndexOf('/');
  return end > 0 && key[end - 1] !== ' ' ? `${key.slice(0, end)}/*` : key;
};

const acts: ReadonlySet<string> = new Set(['press', 'type', 'keys', 'clear']);

function seenIn(sketch: Sketch): Seen {
  const requests: Seen['requests'] = new Map();
  const folders = new Set<string>();
  const endedIn = new Set<string>();
  for (const { key, ended, at, until } of sketch.requests) {
    const known = requests.get(key) ?? { ended: new Set<string>(), ms: 0, times: 0 };
    known.times++;
    known.ended.add(ended);
    folders.add(folderOf(key));
    endedIn.add(`${folderOf(key)} ${ended}`);
    known.ms = Math.max(known.ms, until - at);
    requests.set(key, known);
  }
  const thrown = new Set<string>();
  for (const { key, uncaught, from } of sketch.console) if (uncaught) thrown.add(thrownKey(key, from));
  const during = { act: new Set<string>(), read: new Set<string>() };
  for (const { action, inFlight } of sketch.steps) {
    const kept = acts.has(action) ? during.act : during.read;
    for (const key of Object.keys(inFlight)) kept.add(key);
  }
  return {
    requests,
    folders,
    endedIn,
    during,
    thrown,
    dialogs: sketch.dialogs.length,
  };
}

/** What was thrown, and where. */
export const thrownKey = (key: string, from: string | undefined): string =>
  from === undefined ? key : `${key} @ ${from}`;

/** Before anything was seen: something odd happens in one attempt of forty, and that is worth four attempts. */
const prior = { hits: 0.1, of: 4 } as const;

/** How likely something is in an attempt in which nothing is wrong, by what was seen and a cautious guess before it. */
export const likelihood = ({ hits, of }: Share): number => (hits + prior.hits) / (of + prior.of);

/** What no clue can exceed: the log-odds that lie in something that always comes with a cause and so often without it. */
export const mostTold = (share: Share): number => Math.max(0, Math.log(0.95 / likelihood(share)));

/** The rarer of two things that were both so. */
export const rarer = (a: Share, b: Share): Share => (likelihood(a) <= likelihood(b) ? a : b);

/** The commoner of two things of which either explains what was seen. */
export const commoner = (a: Share, b: Share): Share => (likelihood(a) >= likelihood(b) ? a : b);

/** “in 41 of 130 attempts that passed”, where any did. */
export const inOrdinary = ({ hits, of }: Share): string => `in ${hits} of ${of} attempts that passed, of all tests`;
