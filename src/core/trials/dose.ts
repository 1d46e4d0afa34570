import { atDose, doseOf, kindsOfStressor, type Stressor } from './stressor.ts';
import type { Tallies } from './tally.ts';

/** A dose is known well enough when it lies between two that are this near, as a share of the larger. */
const nearEnough = 0.13;
/** Nor closer than this many milliseconds: a machine's own noise is larger. */
const leastMs = 12;
/** Trials at a dose before it is said to provoke or not; a third decides where two disagree. */
const each = 2;

/** Between which doses the failure begins, or what to try next to know. */
export interface DoseSearch {
  /** The largest known dose that does not provoke, and the smallest known that does. */
  low: number;
  high: number;
  /** To be tried next; absent once it is known well enough. */
  next?: Stressor;
  /** A trial of it is being played: its end decides. */
  wait?: boolean;
}

/**
 * Finds by bisection the dose at which a stressor begins to provoke the failure.
 * @param provoking the stressor at a dose that provokes
 * @param tallies what was tried so far
 */
export function searchDose(provoking: Stressor, tallies: Tallies): DoseSearch | undefined {
  const kind = kindsOfStressor[provoking.kind].dose;
  const from = doseOf(provoking);
  if (!kind || from === undefined) return undefined;
  let [low, high] = [kind.none, from];
  while (!near(low, high, kind.unit)) {
    const mid = roundedDose((low + high) / 2, kind.unit);
    if (mid === low || mid === high) break;
    const next = atDose(provoking, mid);
    const { n, same, pending } = tallies.under([next]);
    const decided = n >= each && (same === 0 || same === n) ? true : n > each;
    if (!decided) return pending > 0 && n + pending >= each ? { low, high, wait: true } : { low, high, next };
    if (same * 2 > n) high = mid;
    else low = mid;
  }
  return { low, high };
}

function near(low: number, high: number, unit: string): boolean {
  const apart = Math.abs(high - low);
  return apart <= nearEnough * Math.max(Math.abs(high), Math.abs(low)) || (unit === 'ms' && apart <= leastMs);
}

export const roundedDose = (dose: number, unit: string): number =>
  unit === 'ms' ? Math.round(dose) : Math.round(dose * 100) / 100;

/** So far beyond the edge, as a share of it, what else a machine does no longer decides. */
const clearOfEdge = 0.3;

/** A dose that is surely beyond the edge without being far from it. */
export function beyond(provoking: Stressor, { low, high }: DoseSearch): Stressor {
  const unit = kindsOfStressor[provoking.kind].dose!.unit;
  const from = doseOf(provoking)!;
  const step = Math.max(Math.abs(high - low), Math.abs(high) * clearOfEdge);
  const further = high > low ? Math.min(from, high + step) : Math.max(from, high - step);
  return atDose(provoking, roundedDose(further, unit));
}
