import { Hono } from 'hono';
import Joi from 'joi';
import { isFailure } from '../../core/evidence/attempt.ts';
import { placeByHand, nudge } from '../ingest/delivered/hand-placing.ts';
import type { Services } from './context.ts';
import { bodyAs, found, Problem } from './problem.ts';

const placeShape = Joi.object<{ attemptId?: string | null; aside?: boolean }>({
  attemptId: Joi.string().allow(null),
  aside: Joi.boolean(),
}).or('attemptId', 'aside');
const zoneShape = Joi.object<{ minutes: number }>({
  minutes: Joi.number()
    .integer()
    .min(-14 * 60)
    .max(14 * 60)
    .required(),
});
const nudgeShape = Joi.object<{ offsetMs: number }>({ offsetMs: Joi.number().min(-1e9).max(1e9).required() });

/** Files of deliveries: where they are placed, moved by hand, and how their clocks stand. */
export function fileRoutes({ store, analysis, changes, intakes }: Services): Hono {
  const app = new Hono();

  app.get('/runs/:id/files', (c) => {
    const id = c.req.param('id');
    found(store.runs.get(id), 'run', id);
    return c.json({ files: store.files.ofRun(id) });
  });

  app.post('/runs/:id/zone', async (c) => {
    const id = c.req.param('id');
    found(store.runs.get(id), 'run', id);
    const { minutes } = await bodyAs(c, zoneShape);
    const holders = (): (string | null)[] => store.files.ofRun(id).map(({ attemptId }) => attemptId);
    const before = holders();
    const result = await intakes.rezone(id, minutes);
    // What is shared out may be of any attempt; those that failed are what is judged by it.
    const sharing = store.files.ofRun(id).some(({ state }) => state === 'spread');
    const failed = sharing ? store.attempts.ofRun(id).filter(({ outcome }) => isFailure(outcome)) : [];
    for (const one of new Set([...before, ...holders(), ...failed.map((attempt) => attempt.id)]))
      if (one) analysis.settle(one);
    return c.json(result);
  });

  app.get('/attempts/:id/files', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    return c.json({ files: store.files.ofAttempt(id) });
  });

  app.post('/files/:id/place', async (c) => {
    const id = c.req.param('id');
    const file = found(store.files.get(id), 'file', id);
    const { attemptId, aside } = await bodyAs(c, placeShape);
    if (file.state === 'spread')
      throw new Problem(
        409,
        'spread',
        'this file covers several attempts by its own times; it cannot be given to one of them',
      );
    const attempt = attemptId ? found(store.attempts.get(attemptId), 'attempt', attemptId) : undefined;
    if (attempt && attempt.runId !== file.runId)
      throw new Problem(409, 'other-run', 'this attempt is of another run; take the file in there');
    const touched = await placeByHand(store, file, attempt, aside === true);
    for (const one of touched) {
      analysis.settle(one);
      changes.tell({ type: 'attempt', id: one, runId: file.runId, seriesId: null });
    }
    changes.tell({ type: 'run', id: file.runId });
    return c.json({ file: store.files.get(id) });
  });

  app.post('/files/:id/offset', async (c) => {
    const id = c.req.param('id');
    const file = found(store.files.get(id), 'file', id);
    const { offsetMs } = await bodyAs(c, nudgeShape);
    if (!file.attemptId)
      throw new Problem(409, 'not-placed', 'this file is not placed with an attempt, so it has no offset yet');
    nudge(store, file, offsetMs);
    analysis.settle(file.attemptId);
    changes.tell({ type: 'attempt', id: file.attemptId, runId: file.runId, seriesId: null });
    return c.json({ file: store.files.get(id) });
  });

  return app;
}
