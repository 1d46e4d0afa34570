import type { Place } from './place.ts';
import type { Span } from './zones.ts';

/** Most that runners spend between two tests, ms, and how finely it is looked for. */
const most = 2000;
const grain = 50;
/** Fewer files than this say nothing of what lies between tests. */
const fewest = 3;

/**
 * What a runner spends between two tests, where its report only added durations up: the time that brings most of the files
 * into tests, each lying in one as a whole.
 * @param spans of files that tell their times
 * @param places of one report, in its order
 * @returns ms from the end of one test to the beginning of the next; 0 where the files do not tell
 */
export function gapBetween(spans: readonly Span[], places: readonly Pick<Place, 'from' | 'until'>[]): number {
  if (places.length < 2 || spans.length < fewest) return 0;
  let best = { gap: 0, score: scoreAt(0, spans, places) };
  for (let gap = grain; gap <= most; gap += grain) {
    const score = scoreAt(gap, spans, places);
    if (score > best.score + 0.5) best = { gap, score };
  }
  // As many fit from here to there: the middle is meant.
  let until = best.gap;
  while (until + grain <= most && scoreAt(until + grain, spans, places) >= best.score - 0.5) until += grain;
  return (best.gap + until) / 2;
}

/** How many spans lie in a test as a whole; those that touch two count for little. */
function scoreAt(gap: number, spans: readonly Span[], places: readonly Pick<Place, 'from' | 'until'>[]): number {
  let score = 0;
  for (const { from, until } of spans) {
    let inside = 0;
    places.forEach((place, i) => {
      const shift = i * gap;
      const part = Math.min(until, place.until + shift) - Math.max(from, place.from + shift);
      if (part >= 0) inside = Math.max(inside, (part + 1) / (until - from + 1));
    });
    score += inside ** 4;
  }
  return score;
}
