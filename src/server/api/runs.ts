import { Hono } from 'hono';
import type { Services } from './context.ts';
import { found } from './problem.ts';
import { sheetOf } from '../store/sheet.ts';
import { familiesOfRun, type KnownFamilies } from './run-families.ts';

/** Runs, their attempts and their families. */
export function runRoutes({ store }: Services): Hono {
  const app = new Hono();
  app.get('/runs', (c) => {
    const limit = Math.min(Number(c.req.query('limit')) || 30, 500);
    const before = Number(c.req.query('before')) || undefined;
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
  return app;
}
