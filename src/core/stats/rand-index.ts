/**
 * The adjusted Rand index of two groupings of the same things (Hubert and Arabie, 1985): 1 when they
 * agree, about 0 when they agree no more than by chance.
 * @param a group of each thing in one grouping @param b group of each thing in the other
 * @throws RangeError when the groupings are not of the same things
 * @example adjustedRandIndex([1, 1, 2], ['x', 'x', 'y']) // 1
 */
export function adjustedRandIndex<A, B>(a: readonly A[], b: readonly B[]): number {
  if (a.length !== b.length) throw new RangeError(`the groupings are of ${a.length} and ${b.length} things`);
  const rows = new Map<A, number>();
  const columns = new Map<B, number>();
  const cells = new Map<A, Map<B, number>>();
  a.forEach((row, i) => {
    const column = b[i]!;
    rows.set(row, (rows.get(row) ?? 0) + 1);
    columns.set(column, (columns.get(column) ?? 0) + 1);
    const line = cells.get(row) ?? new Map<B, number>();
    line.set(column, (line.get(column) ?? 0) + 1);
    cells.set(row, line);
  });
  const pairs = (n: number): number => (n * (n - 1)) / 2;
  const sum = (counts: Iterable<number>): number => [...counts].reduce((total, n) => total + pairs(n), 0);
  const both = [...cells.values()].reduce((total, line) => total + sum(line.values()), 0);
  const [ofRows, ofColumns, all] = [sum(rows.values()), sum(columns.values()), pairs(a.length)];
  if (all === 0) return 1;
  const chance = (ofRows * ofColumns) / all;
  const most = (ofRows + ofColumns) / 2;
  return most === chance ? 1 : (both - chance) / (most - chance);
}
