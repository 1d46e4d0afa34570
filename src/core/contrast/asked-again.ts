import type { Sketch } from './sketch.ts';

/** Asked for so often in one attempt, pages ask for it by themselves and nothing hangs on one answer. */
const often = 3;

/** Keys of the requests that some of the attempts made again and again. */
export function askedAgain(attempts: Iterable<Pick<Sketch, 'requests'>>): Set<string> {
  const found = new Set<string>();
  for (const { requests } of attempts) {
    const counts = new Map<string, number>();
    for (const { key } of requests) {
      const count = (counts.get(key) ?? 0) + 1;
      counts.set(key, count);
      if (count >= often) found.add(key);
    }
  }
  return found;
}
