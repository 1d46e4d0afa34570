import { printDrill } from '../../core/drill/print.ts';
import { withRemedy } from '../../core/remedies/merge.ts';
import type { Remedy } from '../../core/remedies/remedy.ts';
import type { ProofKept } from '../../core/records.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Store } from '../store/store.ts';
import { drillOfAttempt } from './drill-of-attempt.ts';

/**
 * What proofs of a drill's remedies play. The drill is made from its attempt once, for all of them.
 * @returns of a remedy nothing where the drill was changed in the very place it goes to
 */
export function proofsFor(store: Store, drill: StoredDrill): (remedy: Remedy) => ProofKept | undefined {
  const attempt = drill.attemptId === null ? undefined : store.attempts.get(drill.attemptId);
  const made = attempt && drillOfAttempt(store, attempt);
  const before = made && printDrill(made.drill);
  return ({ id, cause, words, drill: remedied }) => {
    const text = before && withRemedy(before, remedied, drill.text);
    return text ? { remedy: id, cause, words, text } : undefined;
  };
}
