import type { Place } from './loose.ts';

/** Entries of a file that lie in the time of one attempt and of no other that is apart from it. */
interface Part {
  place: string;
  count: number;
}

/** Of a file that is shared out, each attempt that counts has at least so much. */
const leastShare = 0.12;
const leastEntries = 2;

/**
 * Whether a log, HAR, trace or video is of several attempts, one after the other: then each has its part of it. What is of
 * one attempt may reach a little into the next.
 * @param times of its entries, epoch ms; a video's are its beginning and its end
 */
export function coversMany(
  times: readonly number[],
  places: readonly Pick<Place, 'id' | 'from' | 'until' | 'timed'>[],
): boolean {
  const from = times.reduce((least, at) => Math.min(least, at), Infinity);
  const until = times.reduce((most, at) => Math.max(most, at), -Infinity);
  const sorted = places
    .filter((place) => place.timed && place.until > place.from && place.from <= until && place.until >= from)
    .sort((a, b) => a.until - b.until);
  // As many as possible that do not overlap: the classical choice by earliest end.
  const apart: typeof sorted = [];
  for (const place of sorted) if (!apart.length || place.from >= apart.at(-1)!.until) apart.push(place);
  if (apart.length < 2) return false;
  const parts: Part[] = apart.map(({ id, from, until }) => ({
    place: id,
    count: times.filter((at) => at >= from && at <= until).length,
  }));
  const all = parts.reduce((sum, { count }) => sum + count, 0);
  const shares = parts.filter(({ count }) => count >= leastEntries && count >= all * leastShare);
  if (shares.length >= 2) return true;
  // Many short attempts: each has little, but no one has most of it.
  const largest = Math.max(...parts.map(({ count }) => count));
  return parts.filter(({ count }) => count > 0).length >= 3 && largest < all * 0.6;
}

/** Whether a span reaches over several attempts, one after the other, as a whole. */
export function spansMany(
  { from, until }: { from: number; until: number },
  places: readonly Pick<Place, 'from' | 'until' | 'timed'>[],
): boolean {
  // A recorder begins late and ends early, by little against what it covers.
  const spare = Math.min(2000, (until - from) / 10);
  const inside = places
    .filter(
      (place) => place.timed && place.until > place.from && place.from >= from - spare && place.until <= until + spare,
    )
    .sort((a, b) => a.until - b.until);
  let last = -Infinity;
  let apart = 0;
  for (const place of inside) {
    if (place.from < last) continue;
    apart++;
    last = place.until;
  }
  return apart >= 2;
}
