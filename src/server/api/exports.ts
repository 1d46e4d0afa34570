import { Hono } from 'hono';
import { writeVtt } from '../../core/formats/vtt.ts';
import type { Attempt } from '../../core/records.ts';
import type { Services } from './context.ts';
import { filmOf, filmPictures } from '../exports/films.ts';
import { found, inTime, notFound, Problem } from './problem.ts';

/** What is kept here in forms other programs read. */
export function exportRoutes({ store, version, owner, desk }: Services): Hono {
  const app = new Hono();
  const file = (content: string | Buffer<ArrayBuffer>, type: string, name: string): Response =>
    new Response(content, {
      headers: { 'content-type': `${type}; charset=utf-8`, 'content-disposition': `attachment; filename="${name}"` },
    });

  const attemptAt = (id: string): Attempt => found(store.attempts.get(id), 'attempt', id);

  const forms = [
    ['har', 'har', 'application/json', '.har'],
    ['console', 'console', 'text/plain', '.console.txt'],
    ['steps', 'steps', 'text/vtt', '.steps.vtt'],
  ] as const;
  for (const [path, form, type, ending] of forms)
    app.get(`/attempts/:id/${path}`, async (c) => {
      const id = c.req.param('id');
      const written = await inTime(desk.write(form, id, version));
      if (!written) throw notFound('attempt', id);
      return file(Buffer.from(written), type, `${id}${ending}`);
    });
  app.get('/attempts/:id/film', async (c) => {
    const attempt = attemptAt(c.req.param('id'));
    try {
      const { stream, size } = await filmOf(store, owner, attempt.id);
      return c.body(stream, 200, {
        'content-type': 'video/webm',
        'content-length': String(size),
        'content-disposition': `attachment; filename="${attempt.id}.webm"`,
      });
    } catch (error) {
      throw new Problem(409, 'no-film', (error as Error).message);
    }
  });
  app.get('/attempts/:id/film.vtt', (c) => {
    const attempt = attemptAt(c.req.param('id'));
    const first = filmPictures(store, attempt.id)[0];
    return file(writeVtt(store.events.recorded(attempt.id), first?.at ?? 0), 'text/vtt', `${attempt.id}.vtt`);
  });
  const runForms = [
    ['junit', 'junit', 'application/xml', '.xml'],
    ['table', 'table', 'text/csv', '.csv'],
    ['console', 'run-console', 'text/plain', '.console.txt'],
  ] as const;
  for (const [path, form, type, ending] of runForms)
    app.get(`/runs/:id/${path}`, async (c) => {
      const id = c.req.param('id');
      const written = await inTime(desk.write(form, id, version));
      if (!written) throw notFound('run', id);
      return file(Buffer.from(written), type, `${id}${ending}`);
    });
  return app;
}
