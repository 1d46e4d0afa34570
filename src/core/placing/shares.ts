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
    let shares = rows.map((r) => alone(weights[r]!));
    for (let round = 0; round < 30; round++) {
      const columns =
        shares[0]?.map((_, p) =>
          Math.max(
            1,
            shares.reduce((sum, row) => sum + row[p]!, 0),
          ),
        ) ?? [];
      shares = shares.map((row, i) => {
        const lowered = row.map((one, p) => (columns[p]! > 1 ? one / columns[p]! : one));
        const before = weights[rows[i]!]!;
        const nobody = none(before.length);
        const rest = nobody / before.reduce((sum, one) => sum + one, nobody);
        const sum = lowered.reduce((total, one) => total + one, rest);
        return lowered.map((one) => one / sum);
      });
    }
    rows.forEach((r, i) => (out[r] = shares[i]!));
  }
  return out;
}
