/** What it is worth to lay two things on each other; undefined when they must not be. */
export type Likeness<T> = (a: T, b: T) => number | undefined;

/** What it costs to leave one thing out. Two left out cost less than a forced pair of unlike ones. */
const gap = -0.6;

/**
 * The best global alignment of two sequences (Needleman and Wunsch, 1970): pairs of indexes in order,
 * what is left out of either having no pair. Equal beginnings and ends are laid on each other first,
 * so that long attempts that differ in one place cost little.
 * @returns for each of `a` the index in `b`, or -1
 */
export function align<T>(
  a: readonly T[],
  b: readonly T[],
  likeness: Likeness<T>,
  equal: (x: T, y: T) => boolean,
): Int32Array {
  const out = new Int32Array(a.length).fill(-1);
  let from = 0;
  while (from < a.length && from < b.length && equal(a[from]!, b[from]!)) {
    out[from] = from;
    from++;
  }
  let [endA, endB] = [a.length, b.length];
  while (endA > from && endB > from && equal(a[endA - 1]!, b[endB - 1]!)) out[--endA] = --endB;
  const [n, m] = [endA - from, endB - from];
  if (n === 0 || m === 0) return out;
  const width = m + 1;
  const score = new Float64Array((n + 1) * width);
  const way = new Uint8Array((n + 1) * width);
  for (let i = 1; i <= n; i++) score[i * width] = i * gap;
  for (let j = 1; j <= m; j++) score[j] = j * gap;
  for (let i = 1; i <= n; i++) {
    for (let j = 1; j <= m; j++) {
      const like = likeness(a[from + i - 1]!, b[from + j - 1]!);
      const pair = like === undefined ? -Infinity : score[(i - 1) * width + j - 1]! + like;
      const up = score[(i - 1) * width + j]! + gap;
      const left = score[i * width + j - 1]! + gap;
      const best = Math.max(pair, up, left);
      score[i * width + j] = best;
      // Of equally good ways the one that pairs early: an attempt that ends early did the beginning, not the end.
      way[i * width + j] = best === left ? 3 : best === up ? 2 : 1;
    }
  }
  let [i, j] = [n, m];
  while (i > 0 && j > 0) {
    const step = way[i * width + j];
    if (step === 1) out[from + --i] = from + --j;
    else if (step === 2) i--;
    else j--;
  }
  return out;
}
