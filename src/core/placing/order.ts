import type { Loose, Place } from './loose.ts';
import { namedBy, partsOf, wordsOf, type PathPart } from './words.ts';

/** What the order of files says: the nth of as many files as there are tests is likely the nth test's. */
export interface Ordered {
  place: string;
  weight: number;
  reason: string;
}

const weights = { failures: 5, attempts: 4.5, onlyFailure: 3 } as const;

/** The path with its numbers left out, and the last of them. */
function numbered(path: string): { stem: string; number: number | undefined } {
  const numbers = [...path.matchAll(/\d{1,6}/g)];
  const last = numbers.at(-1)?.[0];
  return { stem: path.replace(/\d{1,6}/g, '#'), number: last === undefined ? undefined : Number(last) };
}

/**
 * Files that tell no time, numbered one after the other: as many as tests failed, or as there were tests, they belong to
 * those in their order. Where numbers are missing or stand twice, order says nothing.
 */
export function byOrder(files: readonly Loose[], places: readonly Place[]): Map<string, Ordered> {
  const out = new Map<string, Ordered>();
  const titles = places.map(({ title }) => wordsOf(title).join(' '));
  const inOrder = [...places].sort((a, b) => a.from - b.from);
  const failed = inOrder.filter((place) => place.failed);
  const stems = new Map<string, { file: Loose; number: number | undefined }[]>();
  for (const file of files) {
    if (file.spans?.length && places.some((place) => place.timed)) continue;
    // Numbers within the folder of a test count its pictures, not tests.
    if (namesOne(partsOf(file.path), titles)) continue;
    const { stem, number } = numbered(file.path);
    const known = stems.get(stem);
    if (known) known.push({ file, number });
    else stems.set(stem, [{ file, number }]);
  }
  for (const group of stems.values()) {
    if (group.length === 1) {
      const { file } = group[0]!;
      if (failed.length === 1 && file.shown)
        out.set(file.id, {
          place: failed[0]!.id,
          weight: weights.onlyFailure,
          reason: 'it is the only attempt that failed',
        });
      continue;
    }
    const sorted = group.flatMap(({ file, number }) => (number === undefined ? [] : [{ file, number }]));
    if (sorted.length !== group.length || new Set(sorted.map(({ number }) => number)).size !== sorted.length) continue;
    sorted.sort((a, b) => a.number - b.number);
    // One after the other, and none left out.
    if (sorted.at(-1)!.number - sorted[0]!.number !== sorted.length - 1) continue;
    const list = sorted.length === failed.length ? failed : sorted.length === inOrder.length ? inOrder : undefined;
    if (!list) continue;
    const many = list === failed ? 'as tests failed' : 'as there are attempts';
    sorted.forEach(({ file }, i) =>
      out.set(file.id, {
        place: list[i]!.id,
        weight: list === failed ? weights.failures : weights.attempts,
        reason: `it is the ${i + 1}. of as many files ${many}`,
      }),
    );
  }
  return out;
}

const namesOne = (parts: readonly PathPart[], titles: readonly string[]): boolean =>
  titles.some((title) => namedBy(parts, title));
