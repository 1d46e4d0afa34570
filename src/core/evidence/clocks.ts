import { median } from '../stats/median.ts';

/**
 * Ties one source's clock to another from pairs of the same event seen by both. Wrong pairs are
 * normal, so everything is a median: Theil–Sen for the drift, then the median offset, with the
 * median absolute deviation for how sure it is.
 */
export interface ClockFit {
  /** What to add to a time of the source, ms, at its time 0. */
  offset: number;
  /** Milliseconds gained per millisecond; 0 unless the pairs span long enough to tell. */
  drift: number;
  /** The offset is right within ± this many ms, with about 95 % confidence. */
  within: number;
  /** Pairs that agree, of all. */
  used: number;
  of: number;
}

export interface Pair {
  source: number;
  target: number;
}

/** Below this span a drift cannot be told from scatter; clocks of one machine drift under 1 ms in ten seconds. */
const driftFromMs = 60_000;
/** 1.4826 MADs are one standard deviation of normal scatter. */
const perDeviation = 1.4826;
/** Two clocks are read at best to a millisecond. */
const finest = 1;

/** @returns undefined without a pair */
export function fitClock(pairs: readonly Pair[]): ClockFit | undefined {
  if (pairs.length === 0) return undefined;
  const span = Math.max(...pairs.map((p) => p.source)) - Math.min(...pairs.map((p) => p.source));
  const drift = span >= driftFromMs && pairs.length >= 6 ? theilSen(pairs) : 0;
  const offsets = pairs.map((p) => p.target - p.source - drift * p.source);
  const rough = median(offsets);
  const mad = median(offsets.map((one) => Math.abs(one - rough)));
  const tolerance = Math.max(3 * perDeviation * mad, finest);
  const good = offsets.filter((one) => Math.abs(one - rough) <= tolerance);
  const offset = median(good);
  const deviation = perDeviation * median(good.map((one) => Math.abs(one - offset)));
  // The median of n is sure to about 1.25 deviations over the root of n; a single pair says nothing of its scatter.
  const within = good.length < 2 ? 1000 : Math.max(finest, (1.96 * 1.25 * deviation) / Math.sqrt(good.length));
  return { offset, drift, within, used: good.length, of: pairs.length };
}

/** Median of the slopes of (target − source) over source, over pairs of pairs; at most about 10,000 of them. */
function theilSen(pairs: readonly Pair[]): number {
  const slopes: number[] = [];
  const stride = Math.max(1, Math.floor((pairs.length * pairs.length) / 20_000));
  for (let i = 0; i < pairs.length; i++) {
    for (let j = i + 1; j < pairs.length; j += stride) {
      const dx = pairs[j]!.source - pairs[i]!.source;
      if (Math.abs(dx) < driftFromMs / 10) continue;
      slopes.push((pairs[j]!.target - pairs[j]!.source - (pairs[i]!.target - pairs[i]!.source)) / dx);
    }
  }
  return slopes.length ? median(slopes) : 0;
}

export interface Keyed {
  /** What the event is: equal keys may be the same event. */
  key: string;
  at: number;
}

/** Differences closer than this are taken for the same offset when votes are counted. */
const binMs = 250;

/**
 * Pairs of the same event on two clocks, when only what happened is known and not which is which:
 * every pair of equal keys votes for an offset, and the pairs of the fullest place are kept. A key
 * that comes up many times votes less each time.
 * @param most offsets beyond ± this many ms are not believed
 */
export function pairEvents(source: readonly Keyed[], target: readonly Keyed[], most = 86_400_000): Pair[] {
  const byKey = new Map<string, number[]>();
  for (const { key, at } of target) {
    const list = byKey.get(key);
    if (list) list.push(at);
    else byKey.set(key, [at]);
  }
  const votes: { offset: number; weight: number; pair: Pair }[] = [];
  for (const { key, at } of source) {
    const meets = byKey.get(key);
    if (!meets || meets.length > 200) continue;
    for (const other of meets) {
      const offset = other - at;
      if (Math.abs(offset) <= most)
        votes.push({ offset, weight: 1 / meets.length, pair: { source: at, target: other } });
    }
  }
  votes.sort((a, b) => a.offset - b.offset);
  let best = { from: 0, to: 0, weight: 0 };
  let weight = 0;
  for (let from = 0, to = 0; to < votes.length; to++) {
    weight += votes[to]!.weight;
    while (votes[to]!.offset - votes[from]!.offset > binMs) weight -= votes[from++]!.weight;
    if (weight > best.weight + 1e-9) best = { from, to: to + 1, weight };
  }
  return votes.slice(best.from, best.to).map(({ pair }) => pair);
}
