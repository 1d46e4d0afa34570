import type { Clue } from '../clues/clue.ts';
import type { Outcome } from '../evidence/attempt.ts';
import { causeCodes, type Cause, type CauseCode } from './cause.ts';
import { coveredTarget } from './covered-target.ts';
import { earlyAction } from './early-action.ts';
import { replacedElement } from './replaced-element.ts';

export const causes: readonly Cause[] = [replacedElement, coveredTarget, earlyAction];

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
const doubt = 0.05;
/** A passing attempt has no failure to explain: its clues count for a thirtieth of the odds, and never for more than this. */
const passingDamp = Math.log(1 / 30);
const passingMost = 2.5;

/**
 * Ranked causes: each cause's log-odds is the sum of its clues' weights by strength, the
 * distribution is their softmax over all cause codes, mixed with a little doubt.
 */
export function scoreSuspects(clues: readonly Clue[], outcome: Outcome): Suspects {
  const scored = causeCodes.map((code) => {
    const cause = causes.find((known) => known.code === code);
    const pro = strongest(clues, cause?.for);
    const con = strongest(clues, cause?.against);
    const odds = sum(pro, cause?.for) - sum(con, cause?.against);
    const damped = outcome === 'passed' && odds > 0 ? Math.min(passingMost, Math.max(0, odds + passingDamp)) : odds;
    return { code, pro, con, weight: Math.exp(damped) };
  });
  const total = scored.reduce((all, { weight }) => all + weight, 0);
  const suspects = scored
    .map(({ code, pro, con, weight }) => ({
      cause: code,
      probability: (1 - doubt) * (weight / total) + doubt / causeCodes.length,
      for: pro,
      against: con,
    }))
    .sort((a, b) => b.probability - a.probability || b.for.length - a.for.length);
  return { suspects, undetermined: suspects[0]!.probability < standsOut };
}

/** One clue of each code, the strongest: ten replacements are no ten reasons. */
function strongest(clues: readonly Clue[], weights: Readonly<Record<string, number>> | undefined): Clue[] {
  if (!weights) return [];
  return Object.keys(weights).flatMap((code) => {
    const best = clues.filter((clue) => clue.code === code).sort((a, b) => b.strength - a.strength)[0];
    return best ? [best] : [];
  });
}

function sum(clues: readonly Clue[], weights: Readonly<Record<string, number>> | undefined): number {
  return clues.reduce((all, clue) => all + clue.strength * (weights?.[clue.code] ?? 0), 0);
}
