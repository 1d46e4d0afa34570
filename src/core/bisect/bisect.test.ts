import { describe, expect, it } from 'vitest';
import { seeded } from '../stats/seeded.ts';
import {
  beliefs,
  differAt,
  found,
  movedOdds,
  nextCommit,
  sureAt,
  trialsAtEnds,
  trialsAtOnce,
  trialsToCome,
  type Trials,
} from './bisect.ts';

const none = (commits: number): Trials[] => Array.from({ length: commits }, () => ({ failed: 0, of: 0 }));

/** A history whose rate moves at one commit, bisected. */
function bisected(seed: number, commits: number, at: number, before: number, after: number, most = 3000) {
  const random = seeded(seed);
  const trials = none(commits);
  const play = (commit: number, count: number): void => {
    for (let i = 0; i < count; i++) {
      trials[commit]!.of++;
      if (random() < (commit >= at ? after : before)) trials[commit]!.failed++;
    }
  };
  play(0, trialsAtEnds);
  play(commits - 1, trialsAtEnds);
  while (movedOdds(trials) < differAt) for (const end of [0, commits - 1]) play(end, trialsAtOnce);
  const told = trialsToCome(trials, most);
  let took = 0;
  while (Math.max(...beliefs(trials)) < sureAt && took < most) {
    play(nextCommit(beliefs(trials)), trialsAtOnce);
    took += trialsAtOnce;
  }
  return { ...found(trials), took, told };
}

describe('the commit that moved a rate', () => {
  it('is found in 20 histories of 32 commits with one that moves 2 to 15 %, with the trials it takes told beforehand', () => {
    const ended = Array.from({ length: 20 }, (_, i) => {
      const at = 1 + ((i * 11) % 31);
      return { at, ...bisected(700 + i, 32, at, 0.02, 0.15) };
    });
    const right = ended.filter(({ at, commit }) => at === commit).length;
    expect(right).toBeGreaterThanOrEqual(18);
    const within = ended.filter(({ took, told }) => took <= told.most * 1.5).length;
    expect(within).toBeGreaterThanOrEqual(15);
  });

  it('is found as well where the rate fell', () => {
    const { commit, before, after } = bisected(3, 16, 5, 0.6, 0.05);
    expect(commit).toBe(5);
    expect(before.point).toBeGreaterThan(after.point);
  });
});

it('beliefs add up to one, and the first commit is never the one', () => {
  const random = seeded(9);
  for (let round = 0; round < 200; round++) {
    const trials = Array.from({ length: 2 + Math.floor(random() * 20) }, () => {
      const of = Math.floor(random() * 30);
      return { of, failed: Math.floor(random() * (of + 1)) };
    });
    const shares = beliefs(trials);
    expect(shares[0]).toBe(0);
    expect(shares.reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 9);
    const next = nextCommit(shares);
    expect(next).toBeGreaterThanOrEqual(0);
    expect(next).toBeLessThan(trials.length - 1);
  }
  expect(beliefs(none(5)).slice(1)).toEqual([0.25, 0.25, 0.25, 0.25]);
});

it('a rate that never moved is not taken for one that did', () => {
  const random = seeded(13);
  let taken = 0;
  for (let round = 0; round < 100; round++) {
    const trials = none(16);
    for (const end of [0, 15])
      trials[end] = {
        of: trialsAtEnds,
        failed: Array.from({ length: trialsAtEnds }, () => random() < 0.1).filter(Boolean).length,
      };
    if (movedOdds(trials) >= differAt) taken++;
  }
  expect(taken).toBeLessThanOrEqual(2);
});
