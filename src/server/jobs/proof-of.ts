import { printDrill } from '../../core/drill/print.ts';
import { withRemedy } from '../../core/remedies/merge.ts';
import type { Remedy } from '../../core/remedies/remedy.ts';
import type { ProofKept } from '../../core/records.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Store } from '../store/store.ts';
import { drillOfAttempt } from './drill-of-attempt.ts';

/** What a proof of a remedy plays; nothing where the drill was changed in the very place the remedy goes to. */
export function proofFor(store: Store, drill: StoredDrill, remedy: Remedy): ProofKept | undefined {
  const attempt = drill.attemptId === null ? undefined : store.attempts.get(drill.attemptId);
  const made = attempt && drillOfAttempt(store, attempt);
  const text = made && withRemedy(printDrill(made.drill), remedy.drill, drill.text);
  return text ? { remedy: remedy.id, cause: remedy.cause, words: remedy.words, text } : undefined;
}
