import { Hono, type Context } from 'hono';
import { perPoint } from '../../core/history/points.ts';
import type { HistoryOrder } from '../../core/history/told.ts';
import { pointsCsv } from '../exports/histories.ts';
import type { Services } from './context.ts';
import { inTime, notFound, Problem, queryNumber } from './problem.ts';

const mostPoints = 400;

function orderOf(c: Context): HistoryOrder {
  const per = c.req.query('per') ?? 'day';
  const known = perPoint.find((one) => one === per);
  if (!known)
    throw new Problem(400, 'wrong-per', `“per” must be one of ${perPoint.join(', ')}, got “${per.slice(0, 40)}”`);
  const text = (name: string): string => (c.req.query(name) ?? '').slice(0, 500);
  return {
    // More than these cannot be told apart on a chart; a table of one's own has all.
    points: c.req.query('as') === 'csv' ? Infinity : mostPoints,
    days: queryNumber(c, 'days', { min: 1, max: 3660 }) ?? 90,
    per: known,
    branch: text('branch'),
    suite: text('suite'),
    environment: text('environment'),
  };
}

const csv = (text: string, name: string): Response =>
  new Response(text, {
    headers: { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': `attachment; filename="${name}.csv"` },
  });

/** What was, over weeks: of all tests, of one, and of one way to fail. */
export function historyRoutes({ desk }: Services): Hono {
  const app = new Hono();
  app.get('/history', async (c) => {
    const told = await inTime(desk.history(orderOf(c)));
    return c.req.query('as') === 'csv' ? csv(pointsCsv(told.points), 'history') : c.json(told);
  });
  app.get('/tests/:id/history', async (c) => {
    const id = c.req.param('id');
    const told = await inTime(desk.historyOfTest(id, orderOf(c)));
    if (!told) throw notFound('test', id);
    return c.req.query('as') === 'csv' ? csv(pointsCsv(told.points), id) : c.json(told);
  });
  app.get('/families/:id/history', async (c) => {
    const id = c.req.param('id');
    const told = await inTime(desk.historyOfFamily(id, orderOf(c)));
    if (!told) throw notFound('family', id);
    return c.req.query('as') === 'csv' ? csv(pointsCsv(told.points), id) : c.json(told);
  });
  return app;
}
