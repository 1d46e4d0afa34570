import { median } from './median.ts';

/** How much higher one group lies than another, and between what, with 95 % certainty. */
export interface Shift {
  point: number;
  low: number;
  high: number;
}

/** The 97.5 % point of the standard normal. */
const z = 1.96;

/**
 * The shift between two groups: the median of all differences between a value of the second and one of the first (Hodges
 * and Lehmann, 1963), with the interval that the Mann–Whitney test does not reject (Moses, 1965; normal approximation).
 * With fewer than four against four the interval is the whole range of the differences.
 * @param first values, in any unit
 * @param second values in the same unit
 * @returns in that unit; nothing where a group is empty
 * @example shiftBetween([1, 2, 3], [11, 12, 13])!.point // 10
 */
export function shiftBetween(first: readonly number[], second: readonly number[]): Shift | undefined {
  const [n, m] = [first.length, second.length];
  if (n === 0 || m === 0) return undefined;
  const differences = second.flatMap((b) => first.map((a) => b - a)).sort((a, b) => a - b);
  const rank = Math.floor((n * m) / 2 - z * Math.sqrt((n * m * (n + m + 1)) / 12));
  const from = Math.max(0, Math.min(n, m) < 4 ? 0 : rank);
  return { point: median(differences), low: differences[from]!, high: differences[differences.length - 1 - from]! };
}
