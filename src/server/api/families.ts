import { Hono } from 'hono';
import Joi from 'joi';
import { poolSuspects } from '../../core/causes/family.ts';
import type { DecisionKind } from '../../core/families/decision.ts';
import type { Services } from './context.ts';
import { decisionShape, type Decided } from './decision-shape.ts';
import { bodyAs, found, notFound, Problem } from './problem.ts';

/** Most attempts of a family that are heard, the newest first. */
const mostVoices = 40;

/** Kinds of decisions that are about one of the named causes. */
const aboutCause = ['confirm', 'clear', 'stand'] as const;
const joinShape = Joi.object<{ into: string }>({ into: Joi.string().required() });
const splitShape = Joi.object<{ attemptId: string; by: 'test' | 'fingerprint' }>({
  attemptId: Joi.string().required(),
  by: Joi.string().valid('test', 'fingerprint').default('test'),
});

/** Families of failures and the verdicts on them. */
export function familyRoutes({ store, changes, analysis }: Services): Hono {
  const app = new Hono();

  app.get('/families', (c) => c.json({ families: store.families.newest(undefined, c.req.query('test')) }));

  app.get('/families/:id', (c) => {
    const id = c.req.param('id');
    const family = found(store.families.get(id), 'family', id);
    const attempts = store.attempts.ofFamily(id);
    const recorded = attempts.filter((attempt) => attempt.seriesId === null);
    const series = [...new Set(attempts.flatMap((attempt) => attempt.seriesId ?? []))].flatMap((seriesId) => {
      const one = store.drills.series(seriesId);
      return one ? [store.drills.brief(one)] : [];
    });
    const speaking = recorded.find((attempt) => attempt.leading) ?? recorded[0] ?? attempts[0];
    return c.json({
      ...family,
      attempts: recorded,
      runs: [...new Set(recorded.map((attempt) => attempt.runId))].flatMap((run) => store.runs.get(run) ?? []),
      series,
      moves: store.families.movesOf(id),
      speaking: speaking?.id ?? null,
      suspects: poolSuspects(
        (recorded.length ? recorded : attempts)
          .slice(0, mostVoices)
          .map((attempt) => ({ attempt: attempt.id, suspects: store.attempts.suspects(attempt.id) })),
      ),
    });
  });

  /** What a decision is about, and points at, has to be there. */
  const whatItNames = (family: string, { kind, about, pin }: Decided): void => {
    if (about !== undefined) {
      const { hypotheses, moments } = store.families.verdict(family);
      const pinned = [...moments, ...hypotheses.flatMap((one) => [...one.for, ...one.against])];
      found(
        [...(kind === 'unpin' ? pinned : hypotheses)].find(({ id }) => id === about),
        kind === 'unpin' ? 'pin' : 'hypothesis',
        String(about),
      );
    }
    if (pin?.attempt !== undefined) found(store.attempts.get(pin.attempt), 'attempt', pin.attempt);
    if (pin?.series !== undefined) found(store.drills.series(pin.series), 'series', pin.series);
  };

  app.post('/families/:id/decisions', async (c) => {
    const id = c.req.param('id');
    found(store.families.get(id), 'family', id);
    const decided = await bodyAs(c, decisionShape);
    whatItNames(id, decided);
    const verdict = store.families.decide(id, Date.now(), decided);
    if (isAboutCause(decided.kind)) analysis.relearn();
    changes.tell({ type: 'family', id });
    return c.json({ verdict });
  });

  app.post('/families/:id/join', async (c) => {
    const id = c.req.param('id');
    found(store.families.get(id), 'family', id);
    const { into } = await bodyAs(c, joinShape);
    found(store.families.get(into), 'family', into);
    if (into === id) throw new Problem(409, 'same-family', 'a family cannot be joined to itself; choose another one');
    const move = store.families.join(id, into, Date.now());
    for (const changed of [id, into]) changes.tell({ type: 'family', id: changed });
    return c.json({ move });
  });

  app.post('/families/:id/split', async (c) => {
    const id = c.req.param('id');
    found(store.families.get(id), 'family', id);
    const { attemptId, by } = await bodyAs(c, splitShape);
    const attempt = found(store.attempts.get(attemptId), 'attempt', attemptId);
    if (attempt.familyId !== id) throw new Problem(409, 'other-family', 'this attempt is not of this family');
    const move = store.families.split(attemptId, by, Date.now());
    if (!move)
      throw new Problem(
        409,
        'nothing-left',
        by === 'test'
          ? 'every failure of this family is of this test; there is nothing to split it from'
          : 'every failure of this family reads the same; split it by test instead',
      );
    for (const changed of [id, move.intoId]) changes.tell({ type: 'family', id: changed });
    return c.json({ move });
  });

  app.post('/moves/:id/undo', (c) => {
    const move = store.families.undoMove(moveOf(c.req.param('id')));
    if (!move) throw new Problem(409, 'nothing-to-undo', 'there is no such join or split, or it is taken back already');
    for (const changed of [move.familyId, move.intoId]) changes.tell({ type: 'family', id: changed });
    return c.json({ undone: move });
  });

  app.post('/families/:id/undo', (c) => {
    const id = c.req.param('id');
    found(store.families.get(id), 'family', id);
    const undone = store.families.undo(id);
    if (!undone) throw new Problem(409, 'nothing-to-undo', 'no decision on this family is left to take back');
    if (isAboutCause(undone.kind)) analysis.relearn();
    changes.tell({ type: 'family', id });
    return c.json({ undone, verdict: store.families.verdict(id) });
  });

  return app;
}

/** Whether it changes what causes are likely here. */
const isAboutCause = (kind: DecisionKind): boolean => [...aboutCause, 'own'].includes(kind);

/** Moves are counted. */
function moveOf(text: string): number {
  if (!/^\d{1,15}$/.test(text)) throw notFound('join or split', text);
  return Number(text);
}
