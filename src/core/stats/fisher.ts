/** Logarithms of factorials, added up as they are first needed. */
const logs: number[] = [0];
function logFactorial(n: number): number {
  for (let i = logs.length; i <= n; i++) logs.push(logs[i - 1]! + Math.log(i));
  return logs[n]!;
}

/**
 * Fisher's exact test of a two-by-two table, two-sided: the probability, if group made no difference,
 * of a table at most as likely as this one with the same totals (Fisher, 1922).
 * @param hits in the first group @param of its size @param otherHits in the second @param otherOf its size
 * @throws RangeError when hits are not whole numbers between 0 and the size
 * @example fisherExact(3, 3, 0, 26) // 0.00027
 */
export function fisherExact(hits: number, of: number, otherHits: number, otherOf: number): number {
  for (const [k, n] of [
    [hits, of],
    [otherHits, otherOf],
  ] as const)
    if (!Number.isInteger(k) || !Number.isInteger(n) || k < 0 || k > n)
      throw new RangeError(`${k} of ${n} is no count of hits`);
  const all = of + otherOf;
  const hit = hits + otherHits;
  const choose = (n: number, k: number): number => logFactorial(n) - logFactorial(k) - logFactorial(n - k);
  const log = (k: number): number => choose(of, k) + choose(otherOf, hit - k) - choose(all, hit);
  const seen = log(hits);
  let p = 0;
  // Tables equally likely must not be lost to rounding.
  for (let k = Math.max(0, hit - otherOf); k <= Math.min(of, hit); k++)
    if (log(k) <= seen + 1e-9) p += Math.exp(log(k));
  return Math.min(1, p);
}
