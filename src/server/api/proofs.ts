import { Hono } from 'hono';
import Joi from 'joi';
import { parseDrill } from '../../core/drill/parse.ts';
import type { ProofKept } from '../../core/records.ts';
import { proofOf, wantedOf } from '../../core/trials/proof.ts';
import { allWords, type Stressor } from '../../core/trials/stressor.ts';
import { proofsFor } from '../jobs/proof-of.ts';
import { proofTrials } from '../jobs/turns.ts';
import type { StoredDrill } from '../store/drills.ts';
import type { Store } from '../store/store.ts';
import { remedyOf } from './advice.ts';
import type { Services } from './context.ts';
import { bodyAs, found, Problem } from './problem.ts';
import { canPlay, refuseFaulty } from './series.ts';
import { stressorsShape } from './stressors.ts';

interface ProofBody {
  drillId: string;
  remedy: string;
  engine: string;
  trials: number;
  stressors: Stressor[];
}

const proofShape = Joi.object<ProofBody>({
  drillId: Joi.string().max(100).required(),
  remedy: Joi.string().max(100).required(),
  engine: Joi.string().max(500).default('chromium'),
  trials: Joi.number().integer().min(4).max(1000).default(40),
  stressors: stressorsShape,
});

/** Proofs of remedies: started, watched, stopped. */
export function proofRoutes(services: Services): Hono {
  const app = new Hono();
  const { store, series, places } = services;

  app.post('/proofs', async (c) => {
    const { drillId, remedy, engine, trials, stressors } = await bodyAs(c, proofShape);
    const drill = found(store.drills.get(drillId), 'drill', drillId);
    canPlay(places, engine, stressors);
    refuseFaulty(drill.text);
    const proof = await kept(services, drill, remedy);
    refuseFaulty(proof.text);
    return c.json({ id: series.start({ drillId, engine, trials, stressors, proof }).id }, 202);
  });

  app.get('/proofs/:id', (c) => {
    const id = c.req.param('id');
    return c.json(found(viewOfProof(store, id), 'proof', id));
  });

  app.delete('/proofs/:id', (c) => {
    const id = c.req.param('id');
    found(viewOfProof(store, id), 'proof', id);
    series.stop(id);
    return c.json(viewOfProof(store, id)!);
  });

  return app;
}

/**
 * What is proven: a remedy of the attempt that the drill was made from, put into the drill as it is now, or another drill,
 * by its id, that people mended themselves. @throws Problem
 */
async function kept(services: Services, drill: StoredDrill, remedy: string): Promise<ProofKept> {
  const { store } = services;
  const own = store.drills.get(remedy);
  if (own) return { remedy, cause: null, words: `“${own.title}” as it was mended by hand`, text: own.text };
  if (!drill.attemptId)
    throw new Problem(
      409,
      'no-remedies',
      'this drill was made from no attempt, so nothing is advised on it; name another drill by its id as its remedy',
    );
  const proof = proofsFor(store, drill)(await remedyOf(services, drill.attemptId, remedy));
  if (!proof)
    throw new Problem(
      409,
      'drill-changed',
      'the drill was changed where the remedy goes; make the change in a copy of the drill, and name that copy as the remedy',
    );
  return proof;
}

/** A proof as it stands. */
export function viewOfProof(store: Store, id: string): object | undefined {
  const stored = store.drills.series(id);
  if (!stored?.proof) return undefined;
  const { drillId, runId, engine, trials, state, problem, createdAt, stressors, proof, text } = stored;
  const [before, after] = [parseDrill(text ?? '').drill, parseDrill(proof.text).drill];
  const plan = { stressors, trials, ...(before && after ? { drills: { before, after } } : {}) };
  const tried = proofTrials(store, id);
  const wanted = wantedOf(plan);
  return {
    id,
    drillId,
    attemptId: store.drills.get(drillId)?.attemptId ?? null,
    title: after?.title ?? '',
    runId,
    engine,
    state,
    problem,
    createdAt,
    stressors,
    under: allWords(stressors),
    remedy: proof.remedy,
    cause: proof.cause,
    remedyWords: proof.words,
    drillBefore: text,
    drillAfter: proof.text,
    wanted: { ...wanted, all: Object.values(wanted).reduce((a, b) => a + b, 0) },
    ...proofOf(plan, tried),
    trials: store.trials
      .of(id)
      .map(({ number, phase, verdict, attemptId, place }) => ({ number, side: phase, verdict, attemptId, place })),
  };
}
