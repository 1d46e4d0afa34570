import { scoreSuspects, type Suspects } from './causes/score.ts';
import type { Clue } from './clues/clue.ts';
import { findClues } from './clues/register.ts';
import type { EvidenceEvent } from './evidence/event.ts';
import { prepare, type AttemptFacts } from './evidence/prepare.ts';
import type { Failure } from './failures/failure.ts';
import { readFailure } from './failures/read.ts';
import { familyId, fingerprint } from './families/fingerprint.ts';

/** Raised whenever rules change, so that what was analysed by older rules is found and done again. */
export const analysisVersion = 3;

export interface Analysis extends Suspects {
  failure?: Failure;
  /** Family of the failure and the text it was made from. */
  family?: { id: string; fingerprint: string };
  clues: Clue[];
  /** Waits, pauses and polls inferred from the commands. */
  derived: EvidenceEvent[];
  /** New sentences of command steps, by id. */
  labels: Record<string, string>;
}

/** From the events of one settled attempt to everything that is said about it. */
export function analyse(events: readonly EvidenceEvent[], facts: AttemptFacts): Analysis {
  const evidence = prepare(events, facts);
  const failure = readFailure(evidence);
  const clues = findClues(evidence);
  const print = failure && fingerprint(failure, evidence.failing);
  return {
    ...(failure ? { failure } : {}),
    ...(print ? { family: { id: familyId(print), fingerprint: print } } : {}),
    clues,
    ...scoreSuspects(clues, facts.outcome),
    derived: [...evidence.waits, ...evidence.polls],
    labels: Object.fromEntries(evidence.steps.map((step) => [step.id, step.data.label])),
  };
}
