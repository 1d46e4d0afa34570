import { Hono } from 'hono';
import { riskKinds } from '../../core/risks/risk.ts';
import type { Services } from './context.ts';
import { found, inTime, Problem, queryNumber } from './problem.ts';

/** Most tests of a table of one's own. */
const mostOfCsv = 20_000;

/** What will flake next, of all tests and of one; and what to wait for: when pages are ready. */
export function outlookRoutes({ store, desk }: Services): Hono {
  const app = new Hono();
  app.get('/readiness', async (c) => c.json({ pages: await inTime(desk.readiness()) }));
  app.get('/attempts/:id/readiness', async (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    return c.json({ page: (await inTime(desk.readiness(id)))[0] ?? null });
  });
  app.get('/outlook', async (c) => {
    const text = (name: string): string => (c.req.query(name) ?? '').slice(0, 500);
    const kind = text('kind');
    if (kind !== '' && !riskKinds.some((one) => one === kind))
      throw new Problem(400, 'wrong-kind', `“kind” must be one of ${riskKinds.join(', ')}, got “${kind.slice(0, 40)}”`);
    const asked = {
      kind,
      suite: text('suite'),
      words: text('words'),
      green: text('green') === 'true',
      from: queryNumber(c, 'from', { min: 0, max: 1_000_000, whole: true }) ?? 0,
      count: queryNumber(c, 'count', { min: 1, max: 200, whole: true }) ?? 50,
    };
    if (text('as') !== 'csv') return c.json(store.outlooks.list(asked));
    const csv = await inTime(desk.outlookCsv({ ...asked, from: 0, count: mostOfCsv }));
    return new Response(csv, {
      headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="next.csv"' },
    });
  });
  app.get('/attempts/:id/risks', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    return c.json({ risks: store.outlooks.ofAttempt(id) });
  });
  app.get('/tests/:id/outlook', (c) => {
    const id = c.req.param('id');
    found(store.history.test(id), 'test', id);
    return c.json(store.outlooks.of(id) ?? { score: null, attempts: 0, risks: [] });
  });
  return app;
}
