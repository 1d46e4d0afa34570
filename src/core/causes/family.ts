import type { Clue } from '../clues/clue.ts';
import { causeCodes, type CauseCode } from './cause.ts';
import type { Suspect } from './score.ts';

/** What one attempt of a family says. */
export interface Voice {
  attempt: string;
  suspects: readonly Suspect[];
}

/** A clue as a family tells it: one instance that stands for all, and in how many attempts it was found. */
export interface FamilyClue extends Clue {
  attempt: string;
  found: [number, number];
}

export interface FamilySuspect {
  cause: CauseCode;
  /** Over all causes these sum to 1. */
  probability: number;
  for: FamilyClue[];
  against: FamilyClue[];
}

/** Attempts of a family failed by the same cause, so their evidence is no independent news: how much four of them weigh more than one. */
const weightOfFour = 2;
/** No number of attempts makes certain: this share stays spread over all causes. */
const doubt = 0.01;
/** Under this a cause is not told apart from never. */
const floor = 1e-4;

/**
 * What all attempts of a family say together: the logarithmic pool of their probabilities (the
 * geometric mean, Genest and Zidek 1986), sharpened by how many there are, since they fail for one
 * cause; 1 + log₄ n times as sharp. One attempt alone says what it says.
 * @param voices the newest first; those without suspects are left out
 * @returns the most probable first; empty without voices
 */
export function poolSuspects(voices: readonly Voice[]): FamilySuspect[] {
  const speaking = voices.filter(({ suspects }) => suspects.length > 0);
  if (speaking.length === 0) return [];
  const sharper = 1 + (Math.log(speaking.length) / Math.log(4)) * (weightOfFour - 1);
  const pooled = causeCodes.map((cause) => {
    const said = speaking.map(({ suspects }) => suspects.find((one) => one.cause === cause)?.probability ?? 0);
    const mean = said.reduce((sum, p) => sum + Math.log(Math.max(floor, p)), 0) / said.length;
    return { cause, weight: Math.exp(mean * sharper) };
  });
  const total = pooled.reduce((sum, { weight }) => sum + weight, 0);
  return pooled
    .map(({ cause, weight }) => ({
      cause,
      probability: sharper > 1 ? (1 - doubt) * (weight / total) + doubt / causeCodes.length : weight / total,
      for: cluesOf(speaking, cause, 'for'),
      against: cluesOf(speaking, cause, 'against'),
    }))
    .sort((a, b) => b.probability - a.probability || b.for.length - a.for.length);
}

/** The clues of one side, by code: the strongest instance, those found in most attempts first. */
function cluesOf(voices: readonly Voice[], cause: CauseCode, side: 'for' | 'against'): FamilyClue[] {
  const byCode = new Map<string, FamilyClue>();
  for (const { attempt, suspects } of voices) {
    for (const clue of suspects.find((one) => one.cause === cause)?.[side] ?? []) {
      const known = byCode.get(clue.code);
      const count = (known?.found[0] ?? 0) + 1;
      const stands = known && known.strength >= clue.strength ? known : { ...clue, attempt };
      byCode.set(clue.code, { ...stands, found: [count, voices.length] });
    }
  }
  return [...byCode.values()].sort((a, b) => b.found[0] * b.strength - a.found[0] * a.strength);
}
