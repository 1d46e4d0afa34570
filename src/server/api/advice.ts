import { Hono } from 'hono';
import type { Remedy } from '../../core/remedies/remedy.ts';
import { adviceOn } from '../jobs/advice-on.ts';
import type { Services } from './context.ts';
import { found, inTime, Problem } from './problem.ts';

/** What to do about the suspects of an attempt, in words and as changed drills. */
export function adviceRoutes({ store, contrasts }: Services): Hono {
  const app = new Hono();

  app.get('/attempts/:id/advice', async (c) => {
    const id = c.req.param('id');
    return c.json(await inTime(adviceOn(store, contrasts, found(store.attempts.get(id), 'attempt', id))));
  });

  return app;
}

/** @throws Problem when the attempt has no such remedy, or has it no more */
export async function remedyOf({ store, contrasts }: Services, attempt: string, id: string): Promise<Remedy> {
  const { remedies } = await inTime(adviceOn(store, contrasts, found(store.attempts.get(attempt), 'attempt', attempt)));
  const remedy = remedies.find((one) => one.id === id);
  if (remedy) return remedy;
  const known = remedies.map((one) => one.id).join(', ');
  throw new Problem(
    404,
    'no-remedy',
    `this attempt has no remedy ${id}${known ? `; it has ${known}` : ''}; ask GET /api/attempts/${attempt}/advice for those there are`,
  );
}
