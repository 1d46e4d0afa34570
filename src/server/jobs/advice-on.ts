import { environmentKey } from '../../core/evidence/attempt.ts';
import type { Attempt } from '../../core/records.ts';
import type { Store } from '../store/store.ts';
import type { AdviceOn, Contrasts } from './contrasts.ts';

/** Most attempts of each side whose evidence is read for advice. */
const from = { failing: 4, passing: 12 } as const;
/** Attempts of a family that are looked through for those of the same test. */
const mostOfFamily = 60;

/** What to do about an attempt, and from how many attempts it is drawn. */
export async function adviceOn(
  store: Store,
  contrasts: Contrasts,
  { id, familyId, test, environment }: Attempt,
): Promise<AdviceOn & { from: { passing: number; failing: number } }> {
  const failing = familyId
    ? store.attempts.ofFamily(familyId, mostOfFamily).filter((one) => one.test.id === test.id && one.id !== id)
    : [];
  const passing = passingFor(store, id, test.id, environmentKey(environment));
  const cleared = familyId ? store.families.verdict(familyId).cleared.map(({ cause }) => cause) : [];
  const near = failing.slice(0, from.failing).map((one) => one.id);
  const advice = await contrasts.advice(id, near, passing, cleared);
  return { ...advice, from: { passing: passing.length, failing: near.length + 1 } };
}

/**
 * Where something fails in one place only, or has passed there once or twice, the other places tell more; then the
 * trials of its own drill that passed.
 */
function passingFor({ sketches, trials }: Store, id: string, test: string, environment: string): string[] {
  const own = sketches.baselineIds(test, id, environment, from.passing);
  const lacks = (list: readonly string[]): boolean => list.length < from.passing;
  const everywhere = lacks(own) ? sketches.baselineIds(test, id, undefined, from.passing) : [];
  const known = [...new Set([...own, ...everywhere])];
  return [...known, ...(lacks(known) ? trials.passedOf(id, from.passing) : [])].slice(0, from.passing);
}
