import { median } from '../stats/median.ts';
import type { Loose, Place } from './loose.ts';

/** When a recorder starts after its attempt and stops after it, ms: the middle, and how much that varies. */
export interface Habit {
  start: { middle: number; spread: number };
  end: { middle: number; spread: number };
}

/** Before anything is known of a recorder: most start and stop within a second. */
export const unknownHabit: Habit = { start: { middle: 0, spread: 600 }, end: { middle: 0, spread: 700 } };
/** Fewer files than this say nothing of a habit. */
const fewestFiles = 8;
/** No recorder is more regular than this, and clocks of files are no finer. */
const finestSpread = 60;

/**
 * How a recorder starts and stops shows in all its files together.
 * @param shares of each file, how likely it belongs to each place
 */
export function learnHabits(
  rows: readonly Loose[],
  places: readonly Place[],
  groups: readonly string[],
  shares: readonly number[][],
): Map<string, Habit> {
  const habits = new Map<string, Habit>();
  for (const group of new Set(groups)) {
    const starts: number[] = [];
    const ends: number[] = [];
    rows.forEach((file, r) => {
      const span = file.spans?.[0];
      if (groups[r] !== group || !span || span.until === span.from) return;
      let best = -1;
      shares[r]!.forEach((share, p) => {
        if (places[p]!.timed && share > (best < 0 ? 0.05 : shares[r]![best]!)) best = p;
      });
      if (best < 0) return;
      starts.push(span.from - places[best]!.from);
      ends.push(span.until - places[best]!.until);
    });
    if (starts.length < fewestFiles) continue;
    habits.set(group, {
      start: habitOf(starts, unknownHabit.start.spread),
      end: habitOf(ends, unknownHabit.end.spread),
    });
  }
  return habits;
}

/** Median and scaled median deviation, so that some wrong pairs change little. */
function habitOf(lags: readonly number[], most: number): { middle: number; spread: number } {
  const middle = median(lags);
  const spread = 1.4826 * median(lags.map((lag) => Math.abs(lag - middle)));
  return { middle, spread: Math.min(most, Math.max(finestSpread, spread)) };
}
