/**
 * False discovery rates of many tests (Benjamini and Hochberg, 1995): of all results with a `q` up to a
 * bound, about that share is expected to be chance.
 * @param ps the tests' p-values, in any order
 * @returns their q-values in the same order, each at least its p
 * @example benjaminiHochberg([0.01, 0.04, 0.03]) // [0.03, 0.04, 0.04]
 */
export function benjaminiHochberg(ps: readonly number[]): number[] {
  const order = ps.map((_, i) => i).sort((a, b) => ps[b]! - ps[a]!);
  const out = new Array<number>(ps.length);
  let least = 1;
  order.forEach((i, place) => {
    least = Math.min(least, (ps[i]! * ps.length) / (ps.length - place));
    out[i] = least;
  });
  return out;
}
