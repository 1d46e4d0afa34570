import { benjaminiHochberg } from '../stats/benjamini-hochberg.ts';
import { fisherExact } from '../stats/fisher.ts';
import { mannWhitney } from '../stats/mann-whitney.ts';
import { median } from '../stats/median.ts';
import type { Direction, Feature, FeatureKind, Groups } from './feature.ts';
import { featuresOf, placeIn } from './features.ts';
import { lineUp, typical, type Slot } from './line-up.ts';
import type { Sketch } from './sketch.ts';

/** One way in which failing and passing attempts differ. */
export interface Difference {
  kind: FeatureKind;
  /** What it is about, as its feature has it. */
  subject: string;
  /** How the failing attempts are: which way it parts them. */
  direction: Direction;
  /** The sentence of it, made of all that. */
  summary: string;
  /** Place in the line-up; -1 when it holds for the attempt as a whole. */
  slot: number;
  /** In how many of how many known. For numbers: in how many it is above all, or nearly all, passing ones. */
  failing: [number, number];
  passing: [number, number];
  /** Exact test for yes or no, rank test for numbers; and that after the many comparisons. */
  p: number;
  q: number;
  /** How far they part, 0 to 1. */
  effect: number;
  /** It stands: too strong for chance or, with few attempts, complete and by a clear margin. */
  strong: boolean;
  /** The values, failing and passing, in the order the attempts were given; null where unknown. */
  dots: { failing: (boolean | number | null)[]; passing: (boolean | number | null)[] };
  /** The event that shows it in each attempt, failing ones first. */
  shown: Feature['shown'];
  /** When it came to be so, where that is known to be before it showed. */
  began?: Feature['began'];
  words?: Feature['words'];
}

export interface Split {
  /** Place in the line-up. */
  slot: number;
  /** Its time in the first failing attempt, ms. */
  at: number;
  summary: string;
}

export interface Contrast {
  failing: string[];
  passing: string[];
  slots: Slot[];
  /** Index, among all attempts, failing first, of the passing one that stands for them; -1 without any. */
  typical: number;
  differences: Difference[];
  split?: Split;
  /** What its numbers are worth: with so few attempts even a complete parting may be chance. */
  weak: boolean;
}

/** Kinds whose values vary by themselves; a difference needs a clear margin. */
const restless: ReadonlySet<FeatureKind> = new Set(['duration', 'pace', 'latency', 'in-flight', 'order', 'structure']);
/** Kinds that say under which conditions an attempt ran, not what happened in it. */
const conditions: ReadonlySet<FeatureKind> = new Set(['environment', 'commit', 'neighbour']);
/** A number that parts must do so by this, ms, and by this factor. */
const clearMs = 60;
const clearFactor = 1.5;
/** With fewer attempts on a side no test can be sure. */
const few = 4;

/**
 * Holds failing against passing attempts: lines them up, looks at everything that may part them, and ranks it.
 * @param failing at least one @param passing any number
 * @throws RangeError without a failing attempt
 */
export function contrast(failing: readonly Sketch[], passing: readonly Sketch[]): Contrast {
  if (failing.length === 0) throw new RangeError('a contrast needs at least one failing attempt');
  const all = [...failing, ...passing];
  const spine = passing.length ? failing.length + typical(passing) : typical(failing);
  const slots = lineUp(all, spine);
  const ends = all.map((_, who) => slots.findLastIndex((slot) => slot.members[who]! >= 0));
  const groups: Groups = { all, failing: failing.length, ends };
  const differences = passing.length ? ranked(groups, featuresOf(groups, slots)) : [];
  const split = splitOf(groups, slots, differences);
  return {
    failing: failing.map((one) => one.id),
    passing: passing.map((one) => one.id),
    slots,
    typical: passing.length ? spine : -1,
    differences,
    ...(split ? { split } : {}),
    weak: failing.length < few || passing.length < few,
  };
}

function ranked(groups: Groups, features: readonly Feature[]): Difference[] {
  const tested = features.flatMap((feature) => tested1(groups, feature) ?? []);
  const qs = benjaminiHochberg(tested.map(({ p }) => p));
  return tested
    .map((one, i) => ({ ...one, q: qs[i]! }))
    .map((one) => ({ ...one, strong: stands(groups, one) }))
    .filter((one) => one.effect >= 0.25)
    .sort((a, b) => Number(b.strong) - Number(a.strong) || a.q - b.q || b.effect - a.effect || a.slot - b.slot);
}

function tested1(groups: Groups, feature: Feature): Omit<Difference, 'q' | 'strong'> | undefined {
  const failing = feature.values.slice(0, groups.failing);
  const passing = feature.values.slice(groups.failing);
  const dots = { failing, passing };
  const rest = {
    kind: feature.kind,
    subject: feature.subject,
    slot: feature.slot,
    dots,
    shown: feature.shown,
    ...(feature.began ? { began: feature.began } : {}),
  };
  if (typeof [...failing, ...passing].find((value) => value !== null) === 'number') {
    const [a, b] = [failing, passing].map((list) => list.filter((value): value is number => value !== null)) as [
      number[],
      number[],
    ];
    if (a.length === 0 || b.length === 0) return undefined;
    const { p, share } = mannWhitney(a, b);
    const [middle, usual] = [median(a), median(b)];
    const [low, high] = [Math.min(...b), Math.max(...b)];
    const above = middle >= usual;
    const beyond = (value: number): boolean => (above ? value > high : value < low);
    // Beyond what passing attempts vary by among themselves, not just beyond the middle of them.
    const margin = Math.max(clearMs, high - low);
    const clear = above
      ? middle >= high + margin && middle >= usual * clearFactor
      : middle <= low - margin && usual >= middle * clearFactor;
    if (!clear) return undefined;
    const direction = above ? 'more' : 'less';
    return {
      ...rest,
      direction,
      summary: `${feature.say(direction)}: ${ms(middle)} against ${ms(usual)}`,
      failing: [a.filter(beyond).length, a.length],
      passing: [0, b.length],
      p,
      effect: Math.abs(2 * share - 1),
    };
  }
  const [a, b] = [failing, passing].map((list) => list.filter((value): value is boolean => value !== null)) as [
    boolean[],
    boolean[],
  ];
  if (a.length === 0 || b.length === 0) return undefined;
  const [hits, others] = [a.filter(Boolean).length, b.filter(Boolean).length];
  const effect = hits / a.length - others / b.length;
  if (effect === 0) return undefined;
  const direction = effect > 0 ? 'has' : 'lacks';
  return {
    ...rest,
    direction,
    // Said the other way round, the dots are the other way round too.
    dots: effect > 0 ? dots : { failing: failing.map(inverted), passing: passing.map(inverted) },
    summary: feature.say(direction),
    failing: effect > 0 ? [hits, a.length] : [a.length - hits, a.length],
    passing: effect > 0 ? [others, b.length] : [b.length - others, b.length],
    p: fisherExact(hits, a.length, others, b.length),
    effect: Math.abs(effect),
    ...(feature.words ? { words: feature.words } : {}),
  };
}

const inverted = (value: boolean | number | null): boolean | number | null =>
  typeof value === 'boolean' ? !value : value;

const ms = (value: number): string => `${Math.round(value)} ms`;

const isFew = ({ all, failing }: Groups): boolean => failing < few || all.length - failing < few;

function stands(groups: Groups, one: Omit<Difference, 'strong'>): boolean {
  if (one.effect < 0.7) return false;
  if (!isFew(groups)) return one.q <= 0.05;
  // Too few for a test: it has to be complete, and what varies by itself has to have been seen not to vary.
  return one.effect >= 0.999 && (!restless.has(one.kind) || groups.all.length - groups.failing >= 3);
}

/** The earliest place at which something that stands parts the attempts. */
function splitOf(groups: Groups, slots: readonly Slot[], differences: readonly Difference[]): Split | undefined {
  const few = isFew(groups);
  const first = differences
    .filter(
      (one) =>
        one.strong &&
        one.slot >= 0 &&
        !conditions.has(one.kind) &&
        // A step that took longer is a consequence more often than a beginning; one that was quicker is none.
        !(one.kind === 'duration' && few) &&
        one.direction !== 'less',
    )
    .map((one) => ({ one, slot: beginning(groups, slots, one) }))
    .reduce<{ one: Difference; slot: number } | undefined>((best, next) => {
      if (!best || next.slot < best.slot) return next;
      if (next.slot > best.slot) return best;
      return rank(next.one) > rank(best.one) ? next : best;
    }, undefined);
  if (!first) return undefined;
  const { one } = first;
  const slot = slots[first.slot]!;
  // Told of the first failing attempt; where it has nothing there, of the first that has.
  const own = one.began?.[0] ?? one.shown[0]?.at ?? stepTime(groups, slot, 0);
  const who = groups.all.findIndex((_, i) => i < groups.failing && slot.members[i]! >= 0);
  const at = own ?? (who >= 0 ? stepTime(groups, slot, who)! : 0);
  return { slot: first.slot, at, summary: one.summary };
}

/** The place at which a difference began in the failing attempts: that at which it showed, or an earlier one. */
function beginning({ all, failing }: Groups, slots: readonly Slot[], { slot, began }: Difference): number {
  const places = (began ?? [])
    .slice(0, failing)
    .flatMap((at, who) => (at === null ? [] : [placeIn(slots, all[who]!, who, at)]))
    .filter((place) => place >= 0)
    .sort((a, b) => a - b);
  return places.length ? Math.min(slot, places[places.length >> 1]!) : slot;
}

const stepTime = ({ all }: Groups, slot: Slot, who: number): number | undefined =>
  all[who]!.steps[slot.members[who]!]?.at;

/** What shows that something went wrong, rather than what went wrong. */
const symptoms: ReadonlySet<FeatureKind> = new Set(['value', 'held', 'error', 'target', 'title', 'duration']);

/** Of several that part at one place, what led to it says more than what came of it. */
const rank = (one: Difference): number =>
  one.effect -
  (symptoms.has(one.kind) ? 0.5 : 0) -
  (restless.has(one.kind) ? 0.1 : 0) +
  (one.kind === 'status' ? 0.2 : 0);
