import { gammaln } from 'simple-statistics';
import { seeded } from '../stats/seeded.ts';
import { wilson, type Rate } from '../stats/wilson.ts';

/**
 * Which of some commits moved the rate at which a test fails, by trials at one commit after the other.
 *
 * No single trial tells: a flaky test passes at bad commits and fails at good ones. So each commit that may be the one is
 * believed in by as much as the trials of all commits together speak for it: one unknown rate before it, another from it
 * on. The next trials are played where the belief is cut in half, which tells most (probabilistic bisection: M. Horstein,
 * "Sequential transmission using noiseless feedback", IEEE Trans. Inf. Theory 9, 1963; R. Waeber, P. I. Frazier and S. G.
 * Henderson, "Bisection search with noisy responses", SIAM J. Control Optim. 51, 2013), until one commit is believed in
 * enough. Rates are averaged over by Jeffreys' prior; both directions, worse and better, are looked for.
 */
export interface Trials {
  failed: number;
  of: number;
}

/** Trials of the first and the last commit that come first: without a difference between them there is nothing to look for. */
export const trialsAtEnds = 40;
/** So many trials are played at a commit before it is thought again: starting an application takes its time. */
export const trialsAtOnce = 10;
/** How sure it has to be. */
export const sureAt = 0.95;

const betaLog = (a: number, b: number): number => gammaln(a) + gammaln(b) - gammaln(a + b);
const sequenceLog = (failed: number, of: number): number =>
  betaLog(failed + 0.5, of - failed + 0.5) - betaLog(0.5, 0.5);

/**
 * How much each commit is believed to be the first of the new rate; the first commit cannot be, it is what the others are
 * held against.
 * @param trials of each commit, oldest first @returns one share a commit, together 1; the first is 0
 */
export function beliefs(trials: readonly Trials[]): number[] {
  const all = trials.reduce((sum, { failed, of }) => ({ failed: sum.failed + failed, of: sum.of + of }), {
    failed: 0,
    of: 0,
  });
  let before: Trials = { failed: 0, of: 0 };
  const logs = trials.map(({ failed, of }, i) => {
    const log =
      i === 0
        ? -Infinity
        : sequenceLog(before.failed, before.of) + sequenceLog(all.failed - before.failed, all.of - before.of);
    before = { failed: before.failed + failed, of: before.of + of };
    return log;
  });
  const most = Math.max(...logs);
  const weights = logs.map((log) => Math.exp(log - most));
  const sum = weights.reduce((total, weight) => total + weight, 0);
  return weights.map((weight) => weight / sum);
}

/** How many times likelier the trials are if the rate moved somewhere than if it never did. */
export function movedOdds(trials: readonly Trials[]): number {
  const all = trials.reduce((sum, { failed, of }) => ({ failed: sum.failed + failed, of: sum.of + of }), {
    failed: 0,
    of: 0,
  });
  let before: Trials = { failed: 0, of: 0 };
  const whole = sequenceLog(all.failed, all.of);
  let odds = 0;
  trials.forEach(({ failed, of }, i) => {
    if (i > 0)
      odds += Math.exp(
        sequenceLog(before.failed, before.of) + sequenceLog(all.failed - before.failed, all.of - before.of) - whole,
      );
    before = { failed: before.failed + failed, of: before.of + of };
  });
  return odds / Math.max(1, trials.length - 1);
}

/**
 * Where the next trials tell most: the commit at which the belief is cut in half.
 * @param can whether trials can be played at a commit: some do not even start
 */
export function nextCommit(shares: readonly number[], can: (commit: number) => boolean = () => true): number {
  let sum = 0;
  let best = { commit: 0, off: Infinity };
  // Trials at a commit tell whether the change is at or before it, or after it.
  for (let commit = 0; commit < shares.length - 1; commit++) {
    sum += shares[commit]!;
    const off = Math.abs(sum - 0.5);
    if (off < best.off && can(commit)) best = { commit, off };
  }
  return best.commit;
}

export interface Found {
  /** The first commit of the new rate, by its place. */
  commit: number;
  belief: number;
  before: Rate & Trials;
  after: Rate & Trials;
}

export function found(trials: readonly Trials[]): Found {
  const shares = beliefs(trials);
  const commit = shares.indexOf(Math.max(...shares));
  const counted = (some: readonly Trials[]): Rate & Trials => {
    const failed = some.reduce((sum, one) => sum + one.failed, 0);
    const of = some.reduce((sum, one) => sum + one.of, 0);
    return { ...wilson(failed, of), failed, of };
  };
  return {
    commit,
    belief: shares[commit]!,
    before: counted(trials.slice(0, commit)),
    after: counted(trials.slice(commit)),
  };
}

/** From these odds on the first and the last commit are taken to differ. */
export const differAt = 20;

/**
 * How many more trials it will take, told beforehand: bisections like this one are played through with drawn trials.
 * @param trials so far, of the ends at least @returns the middle of what they took, and what nine in ten stayed under
 */
export function trialsToCome(trials: readonly Trials[], most: number, plays = 30): { middle: number; most: number } {
  const [low, high] = [trials[0]!, trials.at(-1)!].map(({ failed, of }) => (failed + 0.5) / (of + 1)) as [
    number,
    number,
  ];
  const took: number[] = [];
  for (let play = 0; play < plays; play++) {
    const random = seeded(1000 + play);
    const at = 1 + Math.floor(random() * (trials.length - 1));
    const own = trials.map((one) => ({ ...one }));
    let count = 0;
    for (; count < most; count += trialsAtOnce) {
      const shares = beliefs(own);
      if (Math.max(...shares) >= sureAt) break;
      const commit = nextCommit(shares);
      const rate = commit >= at ? high : low;
      for (let i = 0; i < trialsAtOnce; i++) {
        own[commit]!.of++;
        if (random() < rate) own[commit]!.failed++;
      }
    }
    took.push(count);
  }
  took.sort((a, b) => a - b);
  return { middle: took[Math.floor(plays / 2)]!, most: took[Math.floor(plays * 0.9)]! };
}
