import { Hono } from 'hono';
import Joi from 'joi';
import type { SearchOrder } from '../../core/records.ts';
import type { Store } from '../store/store.ts';
import type { Services } from './context.ts';
import { keptDrillOf } from './drills.ts';
import { bodyAs, found } from './problem.ts';
import { viewOfProof } from './proofs.ts';
import { canPlay } from './series.ts';
import { viewOfSeries } from './series-view.ts';
import { searchFields } from './stressors.ts';

interface MendingBody extends SearchOrder {
  attemptId: string;
  engine: string;
  trials: number;
}

const shape = Joi.object<MendingBody>({
  attemptId: Joi.string().max(100).required(),
  engine: Joi.string().max(500).default('chromium'),
  trials: Joi.number().integer().min(4).max(1000).default(20),
  ...searchFields,
});

/** Provoke, mend, prove, as one: started, watched, stopped. */
export function mendingRoutes({ store, mendings, places, changes }: Services): Hono {
  const app = new Hono();

  app.post('/mendings', async (c) => {
    const order = await bodyAs(c, shape);
    canPlay(places, order.engine, []);
    const drillId = keptDrillOf({ store, changes }, order.attemptId).id;
    return c.json({ id: mendings.start({ ...order, drillId }).id }, 202);
  });

  app.get('/mendings/:id', (c) => {
    const id = c.req.param('id');
    return c.json(found(viewOfMending(store, id), 'mending', id));
  });

  app.get('/attempts/:id/mendings', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    return c.json({ mendings: store.mendings.ofAttempt(id) });
  });

  app.delete('/mendings/:id', (c) => {
    const id = c.req.param('id');
    found(store.mendings.get(id), 'mending', id);
    mendings.stop(id);
    return c.json(viewOfMending(store, id)!);
  });

  return app;
}

function viewOfMending(store: Store, id: string): object | undefined {
  const mending = store.mendings.get(id);
  if (!mending) return undefined;
  const attempt = store.attempts.get(mending.attemptId);
  return {
    ...mending,
    attempt: attempt ?? null,
    search: viewOfSeries(store, mending.searchId) ?? null,
    proofs: mending.proofs.flatMap((one) => viewOfProof(store, one) ?? []),
  };
}
