/** What evidence for every place comes to: probabilities over all of them and none. */

/** Of a hundred files that are left beside a report so many belong to no attempt of it. */
const noneOf = 0.15;

/** Weight of “belongs to none of them” among so many places, each of which weighs 1 before anything is known. */
const none = (places: number): number => (noneOf / (1 - noneOf)) * Math.max(1, places);

/** A file for itself. @param row weights (exponentials of log-odds), one for each place */
export function alone(row: readonly number[]): number[] {
  const sum = row.reduce((total, one) => total + one, none(row.length));
  return row.map((one) => one / sum);
}

/**
 * Files of which an attempt has one each compete: rows and columns are normalised in turn (Sinkhorn and Knopp, 1967).
 * @param weights files by places
 * @param groups only files of one group compete
 */
export function competing(weights: readonly number[][], groups: readonly string[]): number[][] {
  const out: number[][] = weights.map(() => []);
  for (const group of new Set(groups)) {
    const rows = weights.flatMap((row, r) => (groups[r] === group ? [r] : []));
    const shares = rows.map((r) => alone(weights[r]!));
    const nobody = none(shares[0]!.length);
    const rests = rows.map((r) => nobody / weights[r]!.reduce((sum, one) => sum + one, nobody));
    for (let round = 0; round < 30; round++) compete(shares, rests);
    rows.forEach((r, i) => (out[r] = shares[i]!));
  }
  return out;
}

/** One round, in place. @param rests what each row leaves for “none of them” */
function compete(shares: number[][], rests: readonly number[]): void {
  const columns = new Float64Array(shares[0]!.length);
  for (const row of shares) for (let p = 0; p < columns.length; p++) columns[p]! += row[p]!;
  shares.forEach((row, r) => {
    let sum = rests[r]!;
    for (let p = 0; p < columns.length; p++) {
      if (columns[p]! > 1) row[p]! /= columns[p]!;
      sum += row[p]!;
    }
    for (let p = 0; p < columns.length; p++) row[p]! /= sum;
  });
}
