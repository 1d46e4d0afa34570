import { Hono } from 'hono';
import { environmentKey, isFailure } from '../../core/evidence/attempt.ts';
import type { Services } from './context.ts';
import { found, inTime, Problem } from './problem.ts';

/** Most attempts of each side that are held against each other at once. */
const most = { failing: 60, passing: 240 } as const;

/** Failing against passing attempts. */
export function contrastRoutes({ store, contrasts }: Services): Hono {
  const app = new Hono();

  app.get('/contrast', async (c) => {
    const ids = (name: string): string[] | undefined =>
      c.req
        .query(name)
        ?.split(',')
        .map((id) => id.trim())
        .filter(Boolean);
    const failing = ids('failing') ?? [];
    if (failing.length === 0)
      throw new Problem(
        400,
        'no-attempt',
        'name at least one failing attempt: /api/contrast?failing=ID or failing=ID,ID…',
      );
    const attempts = failing.slice(0, most.failing).map((id) => found(store.attempts.get(id), 'attempt', id));
    const first = attempts[0]!;
    // “family” puts beside the named attempt all others that failed the same way in the same test.
    const more =
      c.req.query('with') === 'family' && first.familyId
        ? store.attempts
            .ofFamily(first.familyId, most.failing)
            .filter((one) => one.test.id === first.test.id && !failing.includes(one.id))
        : [];
    const where = c.req.query('where') ?? 'same';
    if (where !== 'same' && where !== 'all' && where !== 'elsewhere')
      throw new Problem(400, 'wrong-where', `“where” is same, all or elsewhere, not “${where}”`);
    const named = ids('passing');
    for (const id of named ?? []) found(store.attempts.get(id), 'attempt', id);
    const everywhere = named ? [] : store.sketches.baselineIds(first.test.id, first.id, undefined, most.passing);
    const own = store.sketches.baselineIds(first.test.id, first.id, environmentKey(first.environment), most.passing);
    const passing =
      named?.slice(0, most.passing) ??
      { same: own, all: everywhere, elsewhere: everywhere.filter((id) => !own.includes(id)) }[where];
    const view = await inTime(
      contrasts.of(
        [...attempts, ...more].map(({ id }) => id),
        passing,
      ),
    );
    if (!view)
      throw new Problem(
        409,
        'not-analysed',
        'this attempt is still being recorded or analysed; ask again when its state is ready',
      );
    return c.json({
      ...view,
      test: first.test,
      run: store.runs.get(first.runId)?.name ?? null,
      where,
      elsewhere: everywhere.length,
      failed: isFailure(first.outcome),
    });
  });

  return app;
}
