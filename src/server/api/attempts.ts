import { Readable } from 'node:stream';
import { Hono } from 'hono';
import Joi from 'joi';
import { causeNames } from '../../core/causes/cause.ts';
import { relevanceTold } from '../../core/clues/waits-for.ts';
import { wouldTell } from '../../core/causes/would-tell.ts';
import { reportable, type ReportedOutcome } from '../../core/evidence/attempt.ts';
import { lanes, type Lane } from '../../core/evidence/event.ts';
import { usualOf } from '../../core/evidence/usual.ts';
import { shownTrials } from '../store/shown-trials.ts';
import type { Services } from './context.ts';
import { bodyAs, found, inTime, notFound, Problem, queryNumber } from './problem.ts';

const jsonText = { 'content-type': 'application/json; charset=utf-8' };

/** Moments of an attempt, ms from its start. */
const moments = { min: -1e12, max: 1e12 };

/** What is usual is learnt from so many of the latest passing attempts, and so many events of each. */
const usualFrom = 12;
const mostUsual = 3000;

const outcomeShape = Joi.object<{ status: ReportedOutcome; message: string; stack: string; durationMs?: number }>({
  status: Joi.string()
    .valid(...reportable)
    .required(),
  message: Joi.string().allow('').max(1_000_000).default(''),
  stack: Joi.string().allow('').max(1_000_000).default(''),
  durationMs: Joi.number().min(0).max(86_400_000),
}).unknown(true);

const toldShape = Joi.object<{ attemptId: string | null }>({
  attemptId: Joi.string().max(80).allow(null).required(),
});

/** One attempt: what it is, its evidence, its clues and suspects. */
export function attemptRoutes({ store, sink, desk, version, analysis, toldByReporters }: Services): Hono {
  const app = new Hono();

  app.get('/attempts/:id', (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    const run = store.runs.get(attempt.runId);
    const family = attempt.familyId ? store.families.get(attempt.familyId) : undefined;
    const siblings = store.attempts.siblings(attempt);
    const files = store.files.ofAttempt(id);
    return c.json({
      ...attempt,
      run: run && { id: run.id, name: run.name },
      family: family ?? null,
      siblings,
      files,
      kept: store.kept.of(id),
    });
  });

  app.get('/attempts/:id/events', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    const wanted = c.req.query('lane')?.split(',').filter(Boolean) ?? [];
    const unknown = wanted.find((lane) => !(lanes as readonly string[]).includes(lane));
    if (unknown) throw new Problem(400, 'wrong-lane', `“${unknown}” is no lane; there are ${lanes.join(', ')}`);
    const page = store.events.page(id, {
      lane: wanted as Lane[],
      from: queryNumber(c, 'from', moments),
      until: queryNumber(c, 'until', moments),
      limit: queryNumber(c, 'limit', { min: 1, max: 10_000, whole: true }),
      after: c.req.query('after'),
    });
    return c.json(page);
  });

  app.get('/attempts/:id/bodies/:exchange', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    return c.json({ bodies: store.events.bodies(id, c.req.param('exchange')) });
  });

  app.get('/attempts/:id/outline', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    const also = store.attempts.clues(id).flatMap((clue) => clue.evidence);
    return c.body(store.events.outline(id, also), 200, jsonText);
  });

  app.get('/attempts/:id/stretch', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    const from = queryNumber(c, 'from', moments) ?? 0;
    const until = queryNumber(c, 'until', moments) ?? Number.MAX_VALUE;
    return c.body(store.events.stretch(id, from, until), 200, jsonText);
  });

  app.get('/attempts/:id/usual', (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    const passing = store.attempts
      .passingOf(attempt.test.id, usualFrom)
      .map((other) => store.events.ofLanes(other, ['console', 'network'], mostUsual));
    return c.json(usualOf(passing));
  });

  app.get('/attempts/:id/clues', (c) => {
    const id = c.req.param('id');
    found(store.attempts.get(id), 'attempt', id);
    return c.json({ clues: store.attempts.clues(id) });
  });

  app.get('/attempts/:id/suspects', (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    const suspects = store.attempts.suspects(id).map((suspect) => ({ ...suspect, name: causeNames[suspect.cause] }));
    const why = store.attempts.why(id);
    const tells = attempt.undetermined && why ? wouldTell(suspects, why.lacks) : undefined;
    return c.json({
      suspects,
      undetermined: attempt.undetermined,
      waitsFor: why?.waitsFor ?? [],
      trials: shownTrials(store.db, id, attempt.test.id, store.attempts.printOf(id)) ?? null,
      ...(tells ? { wouldTell: tells } : {}),
    });
  });

  app.get('/attempts/:id/relevance', (c) => {
    const id = c.req.param('id');
    const { failure } = found(store.attempts.get(id), 'attempt', id);
    return c.json(relevanceTold(store.attempts.why(id)?.waitsFor ?? [], failure?.locator));
  });

  app.post('/attempts/:id/outcome', async (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    const told = await bodyAs(c, outcomeShape);
    const masker = sink.maskerOf(id);
    sink.outcome(id, {
      status: told.status,
      message: masker.cut(told.message, 200_000),
      stack: masker.cut(told.stack, 200_000),
    });
    // A streamed attempt has no session that ends; its outcome ends it.
    if (attempt.source === 'streamed' && attempt.state === 'recording') {
      sink.end(id, told.durationMs ?? store.events.lastTime(id));
      toldByReporters.ended(id);
    }
    return c.json({ id, outcome: told.status });
  });

  app.get('/attempts/:id/told', (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    return c.json({ told: attempt.labels.told ?? null, mayBe: store.told.near(attempt) });
  });

  app.post('/attempts/:id/told', async (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    const { attemptId } = await bodyAs(c, toldShape);
    const { recording } = attempt.labels.told ?? {};
    if (attempt.source === 'streamed' && recording !== undefined && attemptId === null) {
      store.together(() => store.told.giveBack(attempt));
      for (const one of [id, recording]) analysis.settle(one);
      return c.json({ id, other: recording });
    }
    if (attempt.source !== 'recorded' || attempt.state === 'recording')
      throw new Problem(
        409,
        'not-recorded',
        'only of an attempt that was recorded here can a report tell, once it is over',
      );
    if (attempt.labels.told && attempt.outcome === 'unreported')
      throw new Problem(
        409,
        'shared-out',
        'it was shared out among the tests that ran in it; each of them has its part',
      );
    if (attemptId === null) {
      if (!attempt.labels.told) throw new Problem(409, 'not-told', 'no report told what became of this attempt');
      const other = store.together(() => store.told.release(attempt));
      for (const one of [id, other]) analysis.settle(one);
      return c.json({ id, other });
    }
    const other = found(store.attempts.get(attemptId), 'attempt', attemptId);
    if (other.id === id || (other.source !== 'imported' && !other.labels.told) || other.state === 'recording')
      throw new Problem(409, 'not-told', 'the other attempt is none that a report told of');
    store.together(() => store.told.exchange(attempt, other, 'said by hand'));
    for (const one of [id, other.id]) analysis.settle(one);
    return c.json({ id, other: other.id });
  });

  app.get('/attempts/:id/pack', async (c) => {
    const id = c.req.param('id');
    const pack = await inTime(desk.write('pack', id, version));
    if (!pack) throw notFound('attempt', id);
    return c.body(Buffer.from(pack), 200, {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="${id}.iskel.zip"`,
    });
  });

  app.get('/blobs/:name', async (c) => {
    const name = c.req.param('name');
    const blob = found(/^[0-9a-f]{64}$/.test(name) ? store.blobs.find(name) : undefined, 'picture', name);
    // Only pictures and videos are shown; anything else is handed over as bytes, never as a page.
    const mime = /^(?:image\/(?:png|jpeg|webp)|video\/(?:webm|mp4))$/.test(blob.mime)
      ? blob.mime
      : 'application/octet-stream';
    const headers = {
      'content-type': mime,
      'cache-control': 'private, max-age=31536000, immutable',
      'accept-ranges': 'bytes',
    };
    const asked = /^bytes=(\d+)-(\d*)$/.exec(c.req.header('range') ?? '');
    if (asked) {
      const start = Number(asked[1]);
      const end = Math.min(asked[2] ? Number(asked[2]) : blob.size - 1, blob.size - 1);
      if (start > end) return c.body(null, 416, { 'content-range': `bytes */${blob.size}` });
      const part = Readable.toWeb(store.blobs.stream(name, { start, end })) as ReadableStream;
      return c.body(part, 206, {
        ...headers,
        'content-range': `bytes ${start}-${end}/${blob.size}`,
        'content-length': String(end - start + 1),
      });
    }
    const all = Readable.toWeb(store.blobs.stream(name)) as ReadableStream;
    return c.body(all, 200, { ...headers, 'content-length': String(blob.size) });
  });

  return app;
}
