import type { Sketch } from './sketch.ts';

/** What a difference is about. */
export const featureKinds = [
  'environment',
  'commit',
  'neighbour',
  'step',
  'error',
  'value',
  'input',
  'held',
  'target',
  'matches',
  'page',
  'title',
  'structure',
  'window',
  'in-flight',
  'request',
  'status',
  'latency',
  'order',
  'duration',
  'pace',
  'console',
  'dialog',
  'windows',
] as const;
export type FeatureKind = (typeof featureKinds)[number];

/** How failing attempts differ from passing ones: by what they have or lack, by being more or less. */
export type Direction = 'has' | 'lacks' | 'more' | 'less';

/** One thing that may part failing from passing attempts, with its value in each of them. */
export interface Feature {
  kind: FeatureKind;
  /** What it is about: the key of a request or of a console line, the title of a test, the label of a step, a page. */
  subject: string;
  /** Place in the line-up; -1 when it belongs to the attempt as a whole. */
  slot: number;
  /** By attempt: yes or no, a number, or null where it cannot be known. */
  values: (boolean | number | null)[];
  /** By attempt: the event that shows it, and when. */
  shown: ({ event: string; at: number } | null)[];
  /** By attempt: when it came to be so, where that is known to be before it showed. */
  began?: (number | null)[];
  /** The sentence of it, said of those in which it is so, is not so, is more or is less. */
  say(direction: Direction): string;
  /** What it was in those, in words, and what it was in the others, where words say it. */
  words?: { here: string; there: string } | undefined;
}

/** The attempts that are held against each other, those that fail first. */
export interface Groups {
  all: readonly Sketch[];
  /** How many of them, from the start, are the failing ones. */
  failing: number;
  /** By attempt: the last place at which it did anything. Beyond it nothing can be missing. */
  ends: readonly number[];
}

/**
 * A feature of words: that it is what it is in the failing attempts and never, or rarely, in the others.
 * @returns undefined where it is the same in both, or known in one group only
 */
export function textFeature<T>(
  kind: FeatureKind,
  slot: number,
  of: readonly T[],
  failing: number,
  value: (one: T) => string | undefined,
  shown: (who: number) => Feature['shown'][number],
  subject: string,
  say: (value: string) => string,
): Feature | undefined {
  const texts = of.map(value);
  const here = counted(texts.slice(0, failing));
  const there = counted(texts.slice(failing));
  if (here.size === 0 || there.size === 0) return undefined;
  const usual = most(there);
  const constant = there.size === 1;
  // Passing attempts that all say the same are parted by anything else; those that vary only by what the failing ones share.
  const told = most(here);
  if (constant && told === usual && here.size === 1) return undefined;
  if (!constant && (there.get(told) ?? 0) / [...there.values()].reduce((a, b) => a + b, 0) > 0.5) return undefined;
  const other = constant && told === usual ? [...here.keys()].find((one) => one !== usual)! : told;
  const vague = constant && here.size > 2 && here.get(other)! < failing / 2;
  return {
    kind,
    subject,
    slot,
    values: texts.map((text) => (text === undefined ? null : constant ? text !== usual : text === other)),
    shown: of.map((_, who) => shown(who)),
    say: (direction) =>
      `${direction === 'lacks' ? 'not: ' : ''}${say(other)}${vague ? ', or something else than usual' : ''}`,
    words: { here: other, there: usual },
  };
}

export function counted(texts: readonly (string | undefined)[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const text of texts) if (text !== undefined) counts.set(text, (counts.get(text) ?? 0) + 1);
  return counts;
}

export const most = (counts: ReadonlyMap<string, number>): string =>
  [...counts].reduce((best, one) => (one[1] > best[1] ? one : best))[0];
