import { findingsOf } from './findings.ts';
import type { Plan } from './search.ts';
import { allWords, words, type Stressor } from './stressor.ts';
import { Tallies, type Tried } from './tally.ts';
import { bearingOf, bearings, type Bearing } from './tells.ts';

/** What a search has shown of a failure, as evidence about its cause. */
export interface Shown {
  /** What brings it on demand, by what that acts on. */
  provoked: { bearing: Bearing; words: string; failed: number; done: number; requests: string[] }[];
  /** What was tried and brought nothing. */
  unmoved: { bearing: Bearing; words: string; done: number }[];
}

/** Fewer trials than this without the failure say nothing. */
const leastVain = 4;

/** @param tried all trials of a search that has ended */
export function shownBy(plan: Plan, tried: readonly Tried[]): Shown {
  const provoked = findingsOf(plan, tried).findings.flatMap(({ stressors, rate }) =>
    [...new Set(stressors.map(bearingOf))].map((bearing) => ({
      bearing,
      words: allWords(stressors),
      failed: rate.failed,
      done: rate.done,
      requests: requestsOf(stressors),
    })),
  );
  const tallies = new Tallies(tried);
  const unmoved = bearings.flatMap((bearing) => {
    const arms = plan.arms
      .map(({ stressors }) => stressors)
      .filter((stressors) => stressors.length > 0 && stressors.every((one) => bearingOf(one) === bearing))
      .map((stressors) => ({ stressors, ...tallies.under(stressors) }));
    const played = arms.filter(({ n }) => n > 0);
    const done = played.reduce((sum, { n }) => sum + n, 0);
    if (done < leastVain || played.some(({ same }) => same > 0) || played.length < arms.length) return [];
    return [{ bearing, words: [...new Set(played.flatMap(({ stressors }) => stressors.map(words)))].join(', '), done }];
  });
  return { provoked, unmoved };
}

const requestsOf = (stressors: readonly Stressor[]): string[] =>
  stressors.flatMap((one) => ('request' in one ? [one.request] : []));
