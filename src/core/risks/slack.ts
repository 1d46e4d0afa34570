import { cumulativeStdNormalProbability, mean } from 'simple-statistics';

/**
 * How far apart two attempts' times of the same thing lie at least, as the spread of their logarithms: one machine's
 * quiet hour says little about the next.
 */
const leastSpread = 0.5;
/** The least spread weighs as much as so many attempts. */
const spreadWeight = 3;

/**
 * How likely something comes later than it was given time for. Times of answers are taken as log-normal; their spread
 * is drawn towards a usual one, since a handful of attempts of one hour tell it too small.
 * @param took how long it took in attempts that passed, ms, at least one @param given how long the test let pass, ms
 * @returns 0…1
 */
export function chanceLate(took: readonly number[], given: number): number {
  const logs = took.map((ms) => Math.log(Math.max(1, ms)));
  const middle = mean(logs);
  const squares = logs.reduce((sum, log) => sum + (log - middle) ** 2, 0);
  const spread = Math.sqrt((squares + spreadWeight * leastSpread ** 2) / (logs.length - 1 + spreadWeight));
  return 1 - cumulativeStdNormalProbability((Math.log(Math.max(1, given)) - middle) / spread);
}
