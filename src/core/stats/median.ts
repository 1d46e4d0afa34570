/**
 * The middle of a list of numbers; the mean of the two middle ones when their count is even.
 * @throws RangeError on an empty list: a missing median is the caller's decision, not 0
 * @example median([3, 1, 2]) // 2
 */
export function median(values: readonly number[]): number {
  if (values.length === 0) throw new RangeError('median needs at least one number, got none');
  const sorted = [...values].sort((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
}
