import { Hono } from 'hono';
import { streamSSE } from 'hono/streaming';
import type { Services } from './context.ts';

/** A line every so often keeps connections from being taken for dead. */
const beatMs = 20_000;

/** Server-sent events for whatever changes. */
export function streamRoutes({ changes }: Services): Hono {
  const app = new Hono();
  app.get('/stream', (c) =>
    streamSSE(c, async (stream) => {
      const end = changes.listen(
        (change) => void stream.writeSSE({ event: change.type, data: JSON.stringify(change) }),
      );
      stream.onAbort(end);
      await stream.writeSSE({ event: 'hello', data: '{}' });
      while (!stream.aborted) {
        await stream.sleep(beatMs);
        await stream.write(': beat\n\n');
      }
      end();
    }),
  );
  return app;
}
