import { stressKey, type Stressor } from './stressor.ts';

/** How a trial ended: the failure that is looked for, no failure, another one, or never; `pending` while it is played. */
export type Verdict = 'same' | 'passed' | 'other' | 'lost' | 'pending';

export interface Tried {
  stressors: readonly Stressor[];
  verdict: Verdict;
}

/** Trials under the same stressors. */
export interface Tally {
  /** Trials that came to an end. */
  n: number;
  same: number;
  other: number;
  pending: number;
  /** Trials whose browser was lost: they say nothing. */
  lost: number;
}

const nothing: Tally = { n: 0, same: 0, other: 0, pending: 0, lost: 0 };

/** Trials counted by what they were under. */
export class Tallies {
  private readonly of = new Map<string, Tally>();

  constructor(tried: readonly Tried[]) {
    for (const { stressors, verdict } of tried) {
      const key = stressKey(stressors);
      const one = { ...(this.of.get(key) ?? nothing) };
      if (verdict === 'pending') one.pending++;
      else if (verdict === 'lost') one.lost++;
      else {
        one.n++;
        if (verdict === 'same') one.same++;
        if (verdict === 'other') one.other++;
      }
      this.of.set(key, one);
    }
  }

  under(stressors: readonly Stressor[]): Tally {
    return this.of.get(stressKey(stressors)) ?? nothing;
  }
}
