import { gammaln } from 'simple-statistics';

/**
 * When the rate of something that happens or not has changed, told as soon as the observations say so.
 *
 * Since the last change, every way to cut what was observed in two is weighed: how much likelier the observations are if
 * the rate was another one before the cut than after it, both unknown, than if it was one all along; the cuts' odds are
 * added up. When the sum passes a bound, a change is told at the likeliest cut, and what follows is watched from there.
 * Source: the Shiryaev–Roberts procedure (M. Pollak, "Optimal detection of a change in distribution", Annals of
 * Statistics 13, 1985) with mixtures over unknown rates (T. L. Lai, "Sequential changepoint detection", JRSS B 57, 1995).
 */
export interface RateChange {
  /** The first observation of the new rate. */
  at: number;
  /** The observation after which it was told. */
  toldAt: number;
  /** Happened, and of how many: since the change before, and from this one to the next. */
  before: [hits: number, of: number];
  after: [hits: number, of: number];
}

/**
 * What is thought of a rate before anything is observed: of tests, that most hardly ever fail, and the others anyhow.
 * Shares and parameters of Beta distributions.
 */
const rates: readonly (readonly [share: number, a: number, b: number])[] = [
  [0.4, 1, 1],
  [0.6, 0.7, 50],
];

/**
 * The bound on the sum of odds: so many observations pass on average until a steady rate is told to have changed. What
 * often fails varies more from stretch to stretch, and is believed later. Measured in `changes.test.ts`.
 */
const bound = { quiet: 400, often: 1000, oftenFrom: 0.1 } as const;

/** A change is looked for so far back: the cost of a long history is that of a short one. */
const farthest = 400;

/**
 * @param happened one entry an observation, in time order
 * @example changesOf([...Array(50).fill(false), ...Array(10).fill(true)]) // one change, at 50
 */
export function changesOf(happened: readonly boolean[]): RateChange[] {
  const changes: RateChange[] = [];
  const sums = [0];
  for (const one of happened) sums.push(sums.at(-1)! + (one ? 1 : 0));
  const hits = (from: number, until: number): number => sums[until]! - sums[from]!;
  const logOf = (from: number, until: number): number => sequenceLog(hits(from, until), until - from);
  let start = 0;
  for (let n = 2; n <= happened.length; n++) {
    const from = Math.max(start, n - farthest);
    if (n < from + 2) continue;
    const whole = logOf(from, n);
    let [best, cut, sum] = [-Infinity, -1, 0];
    for (let k = from + 1; k < n; k++) {
      const gain = logOf(from, k) + logOf(k, n) - whole;
      sum += Math.exp(gain);
      if (gain > best) [best, cut] = [gain, k];
    }
    const rate = (hits(from, cut) + 0.5) / (cut - from + 1);
    const needed = bound.quiet + (bound.often - bound.quiet) * Math.min(1, rate / bound.oftenFrom);
    if (sum < needed) continue;
    changes.push({ at: cut, toldAt: n - 1, before: [hits(start, cut), cut - start], after: [0, 0] });
    start = cut;
  }
  changes.forEach((change, i) => {
    const end = changes[i + 1]?.at ?? happened.length;
    change.after = [hits(change.at, end), end - change.at];
  });
  return changes;
}

const known = new Map<number, number>();
/** Logarithm of the probability of a sequence with so many hits, its rate unknown. */
function sequenceLog(hits: number, of: number): number {
  const key = hits * 100_003 + of;
  let log = known.get(key);
  if (log === undefined) {
    const parts = rates.map(([share, a, b]) => share * Math.exp(betaLog(a + hits, b + of - hits) - betaLog(a, b)));
    known.set(key, (log = Math.log(parts.reduce((sum, part) => sum + part, 0))));
  }
  return log;
}

const betaLog = (a: number, b: number): number => gammaln(a) + gammaln(b) - gammaln(a + b);
