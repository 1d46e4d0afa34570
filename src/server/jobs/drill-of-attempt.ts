import { drillFromEvidence, type MadeDrill } from '../../core/drill/from-evidence.ts';
import { prepare } from '../../core/evidence/prepare.ts';
import type { Attempt } from '../../core/records.ts';
import type { Store } from '../store/store.ts';

/** A few attempts that passed know what waits end at; more say the same. */
const mostPassing = 5;

/** The drill that does what an attempt did; nothing where no commands were recorded in it. */
export function drillOfAttempt(store: Store, attempt: Attempt): MadeDrill | undefined {
  const { id, outcome, message, stack, environment } = attempt;
  const evidence = prepare(store.events.recorded(id), { outcome, message, stack, environment });
  if (evidence.steps.length === 0) return undefined;
  const passing = store.attempts.passingOf(attempt.test.id, mostPassing).flatMap((other) => {
    const known = other === id ? undefined : store.attempts.get(other);
    return known ? [prepare(store.events.recorded(other), known)] : [];
  });
  const limitMs = attempt.failure?.limitMs;
  return drillFromEvidence(evidence, attempt.test.title, {
    passing: passing.filter(({ steps }) => steps.length > 0),
    ...(limitMs === undefined ? {} : { limitMs }),
  });
}
