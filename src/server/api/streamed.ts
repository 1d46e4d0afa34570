import { Hono } from 'hono';
import Joi from 'joi';
import { untoldBrowser } from '../../core/evidence/attempt.ts';
import { timeOf } from '../../core/formats/times.ts';
import type { StreamedAttempt } from '../ingest/streamed.ts';
import type { Services } from './context.ts';
import { isTime, latestTime } from '../../core/formats/times.ts';
import { mostAttempts } from '../../core/records.ts';
import { bodyAs, found, Problem, queryNumber, readBody } from './problem.ts';

const text = (most: number): Joi.StringSchema => Joi.string().max(most);
const beginShape = Joi.object({
  key: text(300),
  run: text(300).required(),
  test: Joi.object({
    suite: text(1000).allow('').default(''),
    title: text(2000).required(),
    file: text(1000),
    params: Joi.object(),
  })
    .unknown(true)
    .required(),
  number: Joi.number().integer().min(1).max(mostAttempts),
  environment: Joi.object({
    browser: text(60).default(untoldBrowser),
    version: text(30).allow('').default(''),
    platform: text(60),
    width: Joi.number().integer().min(1).max(20_000),
    height: Joi.number().integer().min(1).max(20_000),
    place: text(60),
  }).default({ browser: untoldBrowser, version: '' }),
  startedAt: Joi.alternatives(Joi.number().min(0).max(latestTime), Joi.string().max(60)).required(),
  tags: Joi.array().items(text(100)).max(50),
  labels: Joi.object().pattern(text(100), text(1000).allow('')),
  commit: text(100),
  branch: text(200),
  shard: text(50),
  worker: text(50),
  secrets: Joi.array().items(Joi.string().min(3).max(2000)).max(500).default([]),
}).unknown(true);

const mostBlob = 512 * 1024 ** 2;

/** Evidence streamed by any runner's own reporter. */
export function streamedRoutes({ store, streamed }: Services): Hono {
  const app = new Hono();

  app.post('/attempts', async (c) => {
    const body = (await bodyAs(c, beginShape)) as Omit<StreamedAttempt, 'startedAt' | 'labels'> & {
      startedAt: number | string;
      tags?: string[];
      labels?: Record<string, string>;
      shard?: string;
      worker?: string;
    };
    const startedAt = typeof body.startedAt === 'number' ? body.startedAt : timeOf(body.startedAt);
    if (startedAt === undefined || !isTime(startedAt))
      throw new Problem(400, 'wrong-body', '“startedAt” must be epoch milliseconds or an ISO date and time');
    const { tags, labels, shard, worker } = body;
    const { id, isNew } = streamed.begin({ ...body, startedAt, labels: { tags, labels, shard, worker } });
    return c.json({ id }, isNew ? 201 : 200);
  });

  app.post('/attempts/:id/events', async (c) => {
    const id = c.req.param('id');
    const attempt = found(store.attempts.get(id), 'attempt', id);
    refuseWithoutSecrets(id);
    const body = c.req.raw.body;
    if (!body) throw new Problem(400, 'no-events', 'the body is empty; send one event a line, as JSON');
    const taken = await streamed.events(id, attempt.startedAt, body as unknown as AsyncIterable<Uint8Array>);
    if (taken.taken === 0 && taken.refused.length)
      throw new Problem(
        400,
        'wrong-events',
        `no line could be taken; line ${taken.refused[0]!.line}: ${taken.refused[0]!.message}`,
      );
    return c.json(taken);
  });

  app.put('/attempts/:id/blobs/:name', async (c) => {
    const { id, name } = c.req.param();
    found(store.attempts.get(id), 'attempt', id);
    refuseWithoutSecrets(id);
    const length = Number(c.req.header('content-length') ?? 0);
    if (length > mostBlob || !(length >= 0)) throw new Problem(413, 'too-large', 'one file may have 512 MiB');
    const bytes = await wholeBody(c.req.raw.body, length);
    const at = queryNumber(c, 'at', { min: -1e12, max: 1e12 });
    try {
      const { id: file, blob, kind, facts } = await streamed.blob(id, name, bytes, at);
      return c.json({ id: file, name: blob, kind, facts }, 201);
    } catch (error) {
      throw new Problem(422, 'not-taken', (error as Error).message);
    }
  });

  function refuseWithoutSecrets(id: string): void {
    if (streamed.needsSecrets(id))
      throw new Problem(
        409,
        'secrets-needed',
        'this attempt declared secrets, and Iskel keeps them in memory only; begin it again with the same key and its secrets, then go on',
      );
  }

  return app;
}

/** Bytes of all files that are being received at once. */
const mostAtOnce = 1024 ** 3;
let atOnce = 0;

/** A file's bytes, within bounds. */
async function wholeBody(body: ReadableStream<Uint8Array> | null, length: number): Promise<Buffer> {
  let taken = 0;
  try {
    return await readBody(
      body,
      (size, more) => {
        taken = size;
        atOnce += more;
        if (size > mostBlob) throw new Problem(413, 'too-large', 'one file may have 512 MiB');
        if (atOnce > mostAtOnce)
          throw new Problem(429, 'too-much', 'too many files are being sent at once; send this one again in a moment');
      },
      length,
    );
  } finally {
    atOnce -= taken;
  }
}
