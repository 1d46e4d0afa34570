import { Hono } from 'hono';
import type { Services } from './context.ts';
import { found } from './problem.ts';

/** What is kept how long: how much there is, letting go of what is not kept, what is pinned. */
export function keepingRoutes({ store, keeping, changes }: Services): Hono {
  const app = new Hono();
  app.get('/keeping', (c) => c.json(keeping.view()));
  app.post('/keeping', (c) => {
    keeping.begin();
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
