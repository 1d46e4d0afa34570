import type { DoubtKind } from '../records.ts';
import type { Place } from './loose.ts';
import type { Match } from './place.ts';
import { zoneWords, type ZoneGuess } from './zones.ts';

/** Why a file waits, and what would have settled it. */
export interface Doubt {
  kind: DoubtKind;
  words: string;
  settles: string;
}

export interface Doubted {
  matches: readonly Match[];
  /** What it says it covers, where that is known. */
  span?: { from: number; until: number } | undefined;
  /** Its times name no zone, and none is sure. */
  zone?: (Pick<ZoneGuess, 'minutes'> & { others: readonly { minutes: number }[] }) | undefined;
}

const nearMs = 3_600_000;

/** How long something is, as people say it. */
const lasts = (ms: number): string => {
  const minutes = Math.round(ms / 60_000);
  if (ms < 90_000) return `${Math.round(ms / 1000)} s`;
  if (minutes < 90) return `${minutes} minutes`;
  return minutes < 36 * 60 ? `${Math.round(minutes / 60)} hours` : `${Math.round(minutes / 1440)} days`;
};

/** @param name how an attempt is called, with its environment and try */
export function doubtOf(
  { matches, span, zone }: Doubted,
  places: readonly Place[],
  name: (id: string) => string,
): Doubt {
  const timed = places.filter((place) => place.timed);
  const [first, second] = matches;
  if (zone && !span) {
    const may = [zone.minutes, ...zone.others.map(({ minutes }) => minutes)].slice(0, 3).map(zoneWords);
    return {
      kind: 'zone',
      words: `its times name no zone; ${may.length > 1 ? `they may be of ${may.join(' or ')}` : `nothing tells more than that they may be of ${may[0]}`}`,
      settles: 'say the zone of this delivery, or write it into the times',
    };
  }
  if (first && second && first.score < 4 * second.score)
    return between(first, second, places, name, span !== undefined);
  if (span && timed.length && !first) {
    const gap = (place: Place): number => Math.max(place.from - span.until, span.from - place.until, 0);
    const nearest = timed.reduce((one, other) => (gap(other) < gap(one) ? other : one));
    const before = nearest.from > span.until;
    return {
      kind: 'outside',
      words: `its times are outside every attempt of this run: ${lasts(gap(nearest))} ${before ? 'before' : 'after'} the nearest, ${name(nearest.id)}`,
      settles:
        gap(nearest) < nearMs
          ? 'if a clock was wrong, set the zone of the delivery or place it by hand; if it is of another run, name that run'
          : 'it may be of another run: give it with that run’s report, or name the run',
    };
  }
  if (first)
    return {
      kind: 'little',
      words: `it is perhaps of ${name(first.place)} (${Math.round(first.score * 100)} %), which is not sure enough`,
      settles: span
        ? 'the test’s name in its path, or the report naming the file, would settle it'
        : 'a time in its name or the test’s name in its path would settle it',
    };
  if (places.length && !timed.length)
    return {
      kind: 'no-times-in-report',
      words: 'the report tells no times, and the file’s name says nothing of a test',
      settles: 'a report with times, the test’s name in the path, or the report naming the file would settle it',
    };
  return {
    kind: 'no-time',
    words: 'neither its name, its time nor what is in it points to an attempt of this run',
    settles:
      'a time in its name (2026-11-23T10-00-00Z), the test’s name in its path, or the report naming the file would settle it',
  };
}

function between(
  first: Match,
  second: Match,
  places: readonly Place[],
  name: (id: string) => string,
  timed: boolean,
): Doubt {
  const [a, b] = [first, second].map((match) => places.find(({ id }) => id === match.place)!) as [Place, Place];
  const words = `it could be of ${name(a.id)} (${Math.round(first.score * 100)} %) or of ${name(b.id)} (${Math.round(second.score * 100)} %)`;
  const alike = a.title === b.title && a.suite === b.suite;
  if (timed && a.timed && b.timed && a.from < b.until && b.from < a.until)
    return {
      kind: 'parallel',
      words: `${words}: both ran at that time`,
      settles: `the ${alike ? 'browser’s name' : 'test’s name'} or the worker’s number in its path would settle it`,
    };
  if (alike && a.environment.browser !== b.environment.browser)
    return {
      kind: 'other-browser',
      words,
      settles: 'the browser’s name in its path, or a time in its name, would settle it',
    };
  if (alike && a.number !== b.number)
    return {
      kind: 'tries',
      words,
      settles: 'the number of the try in its path (try-2), or a time in its name, would settle it',
    };
  if (alike)
    return {
      kind: 'other-browser',
      words,
      settles: 'the window’s size in its path, or a time in its name, would settle it',
    };
  if (timed)
    return {
      kind: 'between',
      words: `${words}: its time lies where one ends and the other begins`,
      settles: 'a more exact time, or the test’s name in its path, would settle it',
    };
  return {
    kind: 'rivals',
    words,
    settles: 'a time in its name, or the test’s whole name in its path, would settle it',
  };
}
