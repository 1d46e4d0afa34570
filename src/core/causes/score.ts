import type { Clue } from '../clues/clue.ts';
import type { ClueCode } from '../clues/codes.ts';
import type { Outcome } from '../evidence/attempt.ts';
import type { CauseCode, Weights } from './cause.ts';
import type { Priors } from './learning.ts';
import { causes } from './register.ts';

export interface Suspect {
  cause: CauseCode;
  /** Over all causes these sum to 1. */
  probability: number;
  for: Clue[];
  against: Clue[];
}

export interface Suspects {
  suspects: Suspect[];
  undetermined: boolean;
}

/** Under this the leading cause is no more than one of several: say "can't tell". */
const standsOut = 0.5;
/** No set of clues makes certain: this share is spread over all causes. */
const doubt = 0.02;
/** Clues seldom speak of the same thing twice: found to make “0.9” right nine times in ten, with restraint, on sites that rules were looked at with; more would fit them better. */
const sharpness = 1.5;
/**
 * Ranked causes: each cause's log-odds is the sum of its clues' weights by strength, the
 * distribution is their softmax over all cause codes, mixed with a little doubt.
 */
export function scoreSuspects(clues: readonly Clue[], outcome: Outcome, priors?: Priors): Suspects {
  const scored = causes.map(({ code, for: speaksFor, against, doubts }) => {
    // What passed has no failure to explain; only what makes the passing itself doubtful is looked at.
    const weights = outcome === 'passed' ? (doubts ?? {}) : speaksFor;
    const lean = outcome === 'passed' ? 0 : (priors?.[code] ?? 0);
    const pro = strongest(clues, weights);
    const con = outcome === 'passed' ? [] : strongest(clues, against);
    return { code, pro, con, weight: Math.exp(sharpness * (sum(pro, weights) - sum(con, against)) + lean) };
  });
  const total = scored.reduce((all, { weight }) => all + weight, 0);
  const suspects = scored
    .map(({ code, pro, con, weight }) => ({
      cause: code,
      probability: (1 - doubt) * (weight / total) + doubt / causes.length,
      for: pro,
      against: con,
    }))
    .sort((a, b) => b.probability - a.probability || b.for.length - a.for.length);
  return { suspects, undetermined: suspects[0]!.probability < standsOut };
}

/** One clue of each code, the strongest: ten replacements are no ten reasons. The weightiest comes first. */
function strongest(clues: readonly Clue[], weights: Weights | undefined): Clue[] {
  if (!weights) return [];
  return (Object.keys(weights) as ClueCode[])
    .flatMap((code) => {
      const best = clues.filter((clue) => clue.code === code).sort((a, b) => b.strength - a.strength)[0];
      return best ? [best] : [];
    })
    .sort((a, b) => b.strength * weights[b.code]! - a.strength * weights[a.code]!);
}

function sum(clues: readonly Clue[], weights: Weights | undefined): number {
  return clues.reduce((all, clue) => all + clue.strength * (weights?.[clue.code] ?? 0), 0);
}
