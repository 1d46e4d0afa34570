import { Hono } from 'hono';
import type { Services } from './context.ts';
import { latestTime } from '../../core/formats/times.ts';
import { found, Problem, queryNumber } from './problem.ts';
import { sheetOf } from '../store/sheet.ts';
import { familiesOfRun, type KnownFamilies } from './run-families.ts';

/** Runs, their attempts and their families. */
export function runRoutes({ store, keeping, changes }: Services): Hono {
  const app = new Hono();
  app.get('/runs', (c) => {
    const limit = queryNumber(c, 'limit', { min: 1, max: 500, whole: true }) ?? 30;
    const before = queryNumber(c, 'before', { min: 0, max: latestTime });
    const runs = store.runs.newest(limit, before);
    const known: KnownFamilies = new Map();
    return c.json({ runs: runs.map((run) => ({ ...run, families: familiesOfRun(store, run, known) })) });
  });
  app.get('/runs/:id', (c) => {
    const id = c.req.param('id');
    const run = found(store.runs.get(id), 'run', id);
    return c.json({ ...run, families: familiesOfRun(store, run) });
  });
  app.get('/runs/:id/sheet', (c) => {
    const id = c.req.param('id');
    found(store.runs.get(id), 'run', id);
    return c.json({ ...sheetOf(store.db, id), waiting: store.files.waiting(id) });
  });
  app.get('/runs/:id/attempts', (c) => {
    const id = c.req.param('id');
    found(store.runs.get(id), 'run', id);
    return c.json({ attempts: store.attempts.ofRun(id) });
  });
  app.delete('/runs/:id', async (c) => {
    const id = c.req.param('id');
    found(store.runs.get(id), 'run', id);
    if (store.removal.isOfSeries(id))
      throw new Problem(
        409,
        'of-a-series',
        'this run holds the trials of a series; it goes with nothing but its drill',
      );
    if (c.req.query('preview') === 'true') return c.json({ goes: await keeping.weighRun(id) });
    if (store.attempts.ofRun(id).some(({ state }) => state === 'recording'))
      throw new Problem(409, 'recording', 'an attempt of this run is being recorded; remove it when that is over');
    const gone = await keeping.removeRun(id);
    changes.tell({ type: 'run', id });
    return c.json({ removed: id, gone });
  });
  return app;
}
