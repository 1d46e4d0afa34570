import { causeCodes, isCauseCode, type CauseCode } from './cause.ts';

/** Log-odds that a cause starts with, before any clue has spoken. */
export type Priors = Readonly<Record<CauseCode, number>>;

export interface Confirmed {
  cause: string;
  /** When a person confirmed it, ms. */
  at: number;
}

/** After this long a verdict counts half: teams and applications change. */
const halfLifeMs = 90 * 86_400_000;
/** As many verdicts of each cause are taken for given, so that the first few move little. */
const givenEach = 8;
/** No number of verdicts moves a cause further than this: clues decide, priors only lean. */
const mostLean = 1.2;
const dayMs = 86_400_000;

/**
 * What the confirmed verdicts of a workspace make likely: decayed counts over counts taken for given
 * (the mean of a Beta distribution for each cause, against what an even spread would give), as
 * log-odds within ±1.2. Ages count in whole days, so the same verdicts on the same day give the same
 * priors, whatever was confirmed and taken back in between.
 * @example priorsOf([], Date.now())['early-action'] // 0
 */
export function priorsOf(confirmed: readonly Confirmed[], now: number): Priors {
  const counts = new Map<CauseCode, number>();
  const today = Math.floor(now / dayMs);
  for (const { cause, at } of confirmed) {
    if (!isCauseCode(cause)) continue;
    const age = Math.max(0, today - Math.floor(at / dayMs)) * dayMs;
    counts.set(cause, (counts.get(cause) ?? 0) + 0.5 ** (age / halfLifeMs));
  }
  const mean = causeCodes.reduce((sum, code) => sum + (counts.get(code) ?? 0), 0) / causeCodes.length;
  return Object.fromEntries(
    causeCodes.map((code) => {
      const lean = Math.log(((counts.get(code) ?? 0) + givenEach) / (mean + givenEach));
      return [code, Math.max(-mostLean, Math.min(mostLean, lean))];
    }),
  ) as Priors;
}
