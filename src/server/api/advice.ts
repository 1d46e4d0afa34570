import { Hono } from 'hono';
import { environmentKey } from '../../core/evidence/attempt.ts';
import type { Remedy } from '../../core/remedies/remedy.ts';
import type { AdviceOn } from '../jobs/contrasts.ts';
import type { Services } from './context.ts';
import { found, inTime, Problem } from './problem.ts';

/** Most attempts of each side whose evidence is read for advice. */
const from = { failing: 4, passing: 12 } as const;
/** Attempts of a family that are looked through for those of the same test. */
const mostOfFamily = 60;

/** What to do about the suspects of an attempt, in words and as changed drills. */
export function adviceRoutes(services: Services): Hono {
  const app = new Hono();

  app.get('/attempts/:id/advice', async (c) => c.json(await adviceOn(services, c.req.param('id'))));

  return app;
}

/** @throws Problem when there is no such attempt, or it takes too long */
export async function adviceOn(
  { store, contrasts }: Services,
  id: string,
): Promise<AdviceOn & { from: { passing: number; failing: number } }> {
  const attempt = found(store.attempts.get(id), 'attempt', id);
  const { familyId, test } = attempt;
  const failing = familyId
    ? store.attempts.ofFamily(familyId, mostOfFamily).filter((one) => one.test.id === test.id && one.id !== id)
    : [];
  const passing = passingFor(store, id, test.id, environmentKey(attempt.environment));
  const cleared = familyId ? store.families.verdict(familyId).cleared.map(({ cause }) => cause) : [];
  const advice = await inTime(
    contrasts.advice(
      id,
      failing.slice(0, from.failing).map((one) => one.id),
      passing,
      cleared,
    ),
  );
  return { ...advice, from: { passing: passing.length, failing: Math.min(failing.length, from.failing) + 1 } };
}

/** Where something fails in one place only, or has passed there once or twice, the other places tell more; then the drill's own trials. */
function passingFor({ sketches, trials }: Services['store'], id: string, test: string, environment: string): string[] {
  const own = sketches.baselineIds(test, id, environment, from.passing);
  const lacks = (list: readonly string[]): boolean => list.length < from.passing;
  const everywhere = lacks(own) ? sketches.baselineIds(test, id, undefined, from.passing) : [];
  const known = [...new Set([...own, ...everywhere])];
  return [...known, ...(lacks(known) ? trials.passedOf(id, from.passing) : [])].slice(0, from.passing);
}

/** @throws Problem when the attempt has no such remedy, or has it no more */
export async function remedyOf(services: Services, attempt: string, id: string): Promise<Remedy> {
  const { remedies } = await adviceOn(services, attempt);
  const remedy = remedies.find((one) => one.id === id);
  if (remedy) return remedy;
  const known = remedies.map((one) => one.id).join(', ');
  throw new Problem(
    404,
    'no-remedy',
    `this attempt has no remedy ${id}${known ? `; it has ${known}` : ''}; ask GET /api/attempts/${attempt}/advice for those there are`,
  );
}
