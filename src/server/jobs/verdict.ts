import { isFailure } from '../../core/evidence/attempt.ts';
import type { Series } from '../../core/records.ts';
import type { Verdict } from '../../core/trials/tally.ts';
import type { Store } from '../store/store.ts';

/** An analysis that has not come by then will not, ms. */
const settledWithinMs = 20_000;
const lookAgainMs = 25;

/** The family that a drill's trials are held against: that of the failure it was made of; null takes any. */
export function soughtFamily(store: Store, drillId: string): string | null {
  const source = store.drills.get(drillId)?.attemptId;
  return source ? (store.attempts.get(source)?.familyId ?? null) : null;
}

/** Whether a trial that failed, failed as what is looked for. */
export const isSought = (family: string | null, trial: { familyId: string | null }): boolean =>
  family === null || trial.familyId === family;

/** How a trial ended, once its failure has been read: the one that is looked for, another, or none. */
export async function verdictOf(store: Store, series: Series, id: string, stopped: () => boolean): Promise<Verdict> {
  const family = soughtFamily(store, series.drillId);
  const until = Date.now() + settledWithinMs;
  for (;;) {
    const trial = store.attempts.get(id);
    if (!trial || Date.now() > until || (stopped() && trial.state !== 'ready')) return 'lost';
    if (trial.state !== 'ready') {
      await new Promise((done) => setTimeout(done, lookAgainMs));
      continue;
    }
    if (trial.outcome === 'passed') return 'passed';
    if (!isFailure(trial.outcome)) return 'lost';
    return isSought(family, trial) ? 'same' : 'other';
  }
}
