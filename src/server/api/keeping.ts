import { Hono } from 'hono';
import type { Services } from './context.ts';
import Joi from 'joi';
import { bodyAs, found } from './problem.ts';

/** Sure: somebody looked at what goes and says that it may, though it is much or the clock is far from where it was. */
const asked = Joi.object({ sure: Joi.boolean() });

/** What is kept how long: how much there is, letting go of what is not kept, what is pinned. */
export function keepingRoutes({ store, keeping, changes }: Services): Hono {
  const app = new Hono();
  app.get('/keeping', (c) => c.json(keeping.view()));
  app.post('/keeping', async (c) => {
    const { sure } = c.req.header('content-length') === '0' ? {} : await bodyAs<{ sure?: boolean }>(c, asked);
    keeping.begin(sure === true);
    return c.json(keeping.view(), 202);
  });
  app.delete('/keeping', (c) => {
    keeping.stop();
    return c.json(keeping.view());
  });
  const pin = (id: string, pinned: boolean): { pinned: boolean } => {
    const { runId, seriesId } = found(store.attempts.get(id), 'attempt', id);
    store.kept.pin(id, pinned);
    changes.tell({ type: 'attempt', id, runId, seriesId });
    return { pinned };
  };
  app.post('/attempts/:id/pin', (c) => c.json(pin(c.req.param('id'), true)));
  app.delete('/attempts/:id/pin', (c) => c.json(pin(c.req.param('id'), false)));
  return app;
}
