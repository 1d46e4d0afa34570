import { Hono, type Handler } from 'hono';
import { patiently } from '../store/patience.ts';

/** Calls whose body is read as it comes cannot be begun anew; they are patient by themselves. */
const streams = /\/(?:events|blobs\/:name)$/;

/**
 * The same routes, whose writing calls are done again after a moment as long as the database is busy: each of them
 * writes in one piece or not at all, and their bodies are kept.
 */
export function patient(routes: Hono): Hono {
  const app = new Hono();
  for (const { method, path, handler } of routes.routes) {
    const again: Handler = (c, next) => patiently(async () => (await handler(c, next)) as Response);
    const writes = method !== 'GET' && method !== 'ALL' && !streams.test(path);
    app.on(method, path, writes ? again : (handler as Handler));
  }
  return app;
}
