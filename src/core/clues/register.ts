import type { Evidence } from '../evidence/prepare.ts';
import { actedBeforeArrival } from './acted-before-arrival.ts';
import type { Clue, ClueKind } from './clue.ts';
import { heldAcrossReplacement } from './held-across-replacement.ts';
import { nothingInFlight } from './nothing-in-flight.ts';
import { pressPointCovered } from './press-point-covered.ts';
import { pressPointFree } from './press-point-free.ts';
import { replacedAfterResponse } from './replaced-after-response.ts';
import { staleReferenceTold } from './stale-reference-told.ts';
import { targetKeptIdentity } from './target-kept-identity.ts';
import { wrongChoiceKept } from './wrong-choice-kept.ts';

/** Every kind of clue, in no order that matters: clues are sorted by time. */
export const clueKinds: readonly ClueKind[] = [
  heldAcrossReplacement,
  staleReferenceTold,
  replacedAfterResponse,
  pressPointCovered,
  actedBeforeArrival,
  wrongChoiceKept,
  targetKeptIdentity,
  pressPointFree,
  nothingInFlight,
];

/** Kinds that only ever speak against a cause: listed after the others, without a pennant. */
export const quietCodes: ReadonlySet<string> = new Set([
  targetKeptIdentity.code,
  pressPointFree.code,
  nothingInFlight.code,
]);

/** All clues of one attempt, in time order. */
export function findClues(evidence: Evidence): Clue[] {
  return clueKinds
    .flatMap((kind) => kind.find(evidence).map((clue) => ({ code: kind.code, ...clue })))
    .sort((a, b) => a.at - b.at);
}
