import { Hono } from 'hono';
import Joi from 'joi';
import { causeCodes, type CauseCode } from '../../core/causes/cause.ts';
import type { Decision } from '../../core/records.ts';
import type { Services } from './context.ts';
import { bodyAs, found, Problem } from './problem.ts';

const decisionShape = Joi.object<{ kind: Decision['kind']; cause?: CauseCode; text: string }>({
  kind: Joi.string().valid('confirm', 'clear', 'stand', 'note').required(),
  cause: Joi.string()
    .valid(...causeCodes)
    .when('kind', { is: 'note', then: Joi.forbidden(), otherwise: Joi.required() }),
  text: Joi.string().allow('').max(20_000).default(''),
});

/** Families of failures and the verdicts on them. */
export function familyRoutes({ store, changes }: Services): Hono {
  const app = new Hono();

  app.get('/families', (c) => c.json({ families: store.families.newest() }));

  app.get('/families/:id', (c) => {
    const id = c.req.param('id');
    const family = found(store.families.get(id), 'family', id);
    const attempts = store.attempts.ofFamily(id);
    const recorded = attempts.filter((attempt) => attempt.seriesId === null);
    const series = [...new Set(attempts.flatMap((attempt) => attempt.seriesId ?? []))].flatMap(
      (seriesId) => store.drills.series(seriesId) ?? [],
    );
    const speaking = recorded.find((attempt) => attempt.leading) ?? recorded[0] ?? attempts[0];
    return c.json({
      ...family,
      attempts: recorded,
      runs: [...new Set(recorded.map((attempt) => attempt.runId))].flatMap((run) => store.runs.get(run) ?? []),
      series,
      speaking: speaking?.id ?? null,
      suspects: speaking ? store.attempts.suspects(speaking.id) : [],
    });
  });

  app.post('/families/:id/decisions', async (c) => {
    const id = c.req.param('id');
    found(store.families.get(id), 'family', id);
    const { kind, cause, text } = await bodyAs(c, decisionShape);
    const verdict = store.families.decide(id, Date.now(), kind, cause ?? null, text);
    changes.tell({ type: 'family', id });
    return c.json({ verdict });
  });

  app.post('/families/:id/undo', (c) => {
    const id = c.req.param('id');
    found(store.families.get(id), 'family', id);
    const undone = store.families.undo(id);
    if (!undone) throw new Problem(409, 'nothing-to-undo', 'no decision on this family is left to take back');
    changes.tell({ type: 'family', id });
    return c.json({ undone, verdict: store.families.verdict(id) });
  });

  return app;
}
