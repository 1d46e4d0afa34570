import { Hono } from 'hono';
import { streamSSE } from 'hono/streaming';
import { background } from '../../core/background.ts';
import type { Services } from './context.ts';
import { Problem } from './problem.ts';

/** A line every so often keeps connections from being taken for dead. */
const beatMs = 20_000;
/** Changes that wait for a page that does not read; beyond it, it is let go and asks anew when it wakes. */
const mostWaiting = 500;
/** Pages open at once. */
const mostListeners = 300;

/** Server-sent events for whatever changes. */
export function streamRoutes({ changes }: Services): Hono {
  const app = new Hono();
  let listeners = 0;
  app.get('/stream', (c) => {
    if (listeners >= mostListeners)
      throw new Problem(429, 'too-many', `${mostListeners} pages listen already; close some of them`);
    listeners++;
    return streamSSE(c, async (stream) => {
      let waiting = 0;
      let left = false;
      let leave = (): void => undefined;
      const gone = new Promise<void>((done) => {
        leave = () => {
          left = true;
          done();
        };
      });
      const send = (event: string, data: string): void => {
        if (left) return;
        if (++waiting > mostWaiting) return leave();
        background(
          'telling a page of a change',
          stream.writeSSE({ event, data }).then(
            () => void waiting--,
            () => leave(),
          ),
        );
      };
      const end = changes.listen((change) => send(change.type, JSON.stringify(change)));
      const beat = setInterval(() => send('beat', '{}'), beatMs);
      stream.onAbort(leave);
      send('hello', '{}');
      try {
        await gone;
      } finally {
        end();
        clearInterval(beat);
        listeners--;
        stream.abort();
      }
    });
  });
  return app;
}
