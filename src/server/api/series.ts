import { Hono } from 'hono';
import Joi from 'joi';
import { isFailure } from '../../core/evidence/attempt.ts';
import { wilson } from '../../core/stats/wilson.ts';
import type { Store } from '../store/store.ts';
import type { Services } from './context.ts';
import { bodyAs, found, Problem } from './problem.ts';

interface SeriesBody {
  drillId: string;
  engine: string;
  trials: number;
  stressors: unknown[];
}

const seriesShape = Joi.object<SeriesBody>({
  drillId: Joi.string().required(),
  engine: Joi.string().default('chromium'),
  trials: Joi.number().integer().min(1).max(1000).required(),
  stressors: Joi.array()
    .max(0)
    .default([])
    .messages({ 'array.max': 'stressors cannot be laid on trials yet; leave “stressors” empty' }),
});

/** Series that wait for each other. */
const mostWaiting = 50;

/** Series of trials: started, watched, stopped. */
export function seriesRoutes({ store, series, places }: Services): Hono {
  const app = new Hono();

  app.post('/series', async (c) => {
    const { drillId, engine, trials } = await bodyAs(c, seriesShape);
    found(store.drills.get(drillId), 'drill', drillId);
    const place = places.named(engine);
    if (!place) throw new Problem(409, 'no-engine', places.noSuch(engine));
    const { ok, message } = place.health();
    if (!ok) throw new Problem(409, 'place-down', `${place.name}: ${message}`);
    if (series.waiting >= mostWaiting)
      throw new Problem(429, 'too-many', `${mostWaiting} series wait for their turn already; stop some of them`);
    return c.json({ id: series.start(drillId, engine, trials).id }, 202);
  });

  app.get('/series/:id', (c) => {
    const id = c.req.param('id');
    return c.json(found(seriesView(store, id), 'series', id));
  });

  app.delete('/series/:id', (c) => {
    const id = c.req.param('id');
    found(store.drills.series(id), 'series', id);
    series.stop(id);
    return c.json(seriesView(store, id)!);
  });

  return app;
}

/** A series as it stands: its trials, and the rate of the failure it is after. */
function seriesView(store: Store, id: string): object | undefined {
  const stored = store.drills.series(id);
  if (!stored) return undefined;
  const drill = store.drills.get(stored.drillId);
  const source = drill?.attemptId ? store.attempts.get(drill.attemptId) : undefined;
  const family = source?.familyId ?? null;
  const trials = store.attempts.ofSeries(id).map((trial) => {
    const failed = isFailure(trial.outcome);
    return {
      id: trial.id,
      number: trial.number,
      outcome: trial.outcome,
      state: trial.state,
      durationMs: trial.durationMs,
      familyId: trial.familyId,
      sentence: trial.failure?.sentence ?? null,
      same: failed && trial.state === 'ready' && (family === null || trial.familyId === family),
      other: failed && trial.state === 'ready' && family !== null && trial.familyId !== family,
    };
  });
  // Only trials that came to an end, and whose failure has been read, count.
  const done = trials.filter(
    (trial) => trial.state === 'ready' && (trial.outcome === 'passed' || isFailure(trial.outcome)),
  );
  const failed = done.filter((trial) => trial.same).length;
  return {
    ...stored,
    title: drill?.title ?? '',
    familyId: family,
    done: done.length,
    failed,
    otherFailures: done.filter((trial) => trial.other).length,
    rate: wilson(failed, done.length),
    findings: [],
    trials,
  };
}
