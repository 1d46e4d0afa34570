import type { Place } from './loose.ts';

type Timed = Pick<Place, 'from' | 'until' | 'timed'>;

/** Of a file that is shared out, each attempt that counts has at least so much. */
const leastShare = 0.12;
const leastEntries = 2;

/**
 * Whether a log, HAR, trace or video is of several attempts, one after the other: then each has its part of it. What is of
 * one attempt may reach a little into the next.
 * @param times of its entries, epoch ms; a video's are its beginning and its end
 */
export function coversMany(times: readonly number[], places: readonly Timed[]): boolean {
  const from = times.reduce((least, at) => Math.min(least, at), Infinity);
  const until = times.reduce((most, at) => Math.max(most, at), -Infinity);
  const apart = oneAfterTheOther(places.filter((place) => place.from <= until && place.until >= from));
  if (apart.length < 2) return false;
  const counts = apart.map((place) => times.filter((at) => at >= place.from && at <= place.until).length);
  const all = counts.reduce((sum, count) => sum + count, 0);
  if (counts.filter((count) => count >= leastEntries && count >= all * leastShare).length >= 2) return true;
  // Many short attempts: each has little, but no one has most of it.
  return counts.filter((count) => count > 0).length >= 3 && Math.max(...counts) < all * 0.6;
}

/** Whether a span reaches over several attempts, one after the other, as a whole. */
export function spansMany({ from, until }: { from: number; until: number }, places: readonly Timed[]): boolean {
  // A recorder begins late and ends early, by little against what it covers.
  const spare = Math.min(2000, (until - from) / 10);
  const inside = places.filter((place) => place.from >= from - spare && place.until <= until + spare);
  return oneAfterTheOther(inside).length >= 2;
}

/** As many attempts as possible that do not overlap: the classical choice by earliest end. */
function oneAfterTheOther(places: readonly Timed[]): Timed[] {
  const out: Timed[] = [];
  for (const place of places
    .filter(({ timed, from, until }) => timed && until > from)
    .sort((a, b) => a.until - b.until))
    if (!out.length || place.from >= out.at(-1)!.until) out.push(place);
  return out;
}
