import { Hono, type Context } from 'hono';
import Joi from 'joi';
import { environmentKey } from '../../core/evidence/attempt.ts';
import { parts, type Part } from '../../core/hand-over/hand-over.ts';
import type { Attempt } from '../../core/records.ts';
import type { Blurred, HandOverOrder } from '../exports/hand-over.ts';
import { adviceOn } from '../jobs/advice-on.ts';
import type { Services } from './context.ts';
import { bodyAs, found, inTime, Problem } from './problem.ts';

/** Passing attempts that a failure is held against; with fewer of its own environment the others count, too. */
const mostPassing = 60;
const fewPassing = 3;

const share = Joi.number().min(0).max(1).required();
const shape = Joi.object<{ as: HandOverOrder['as']; without: Part[]; blurred: Blurred[] }>({
  as: Joi.string().valid('html', 'text', 'markdown').default('html'),
  without: Joi.array()
    .items(Joi.string().valid(...parts))
    .default([]),
  blurred: Joi.array()
    .items(
      Joi.object({
        picture: Joi.number().integer().min(0).max(9).required(),
        x: share,
        y: share,
        width: share,
        height: share,
      }),
    )
    .max(100)
    .default([]),
});

const types = { html: ['text/html', 'html'], text: ['text/plain', 'txt'], markdown: ['text/markdown', 'md'] } as const;

/** One failed attempt for somebody who has no Iskel: a page, a text, Markdown for a tracker. */
export function handOverRoutes(services: Services): Hono {
  const app = new Hono();
  const { store, contrasts, desk, version } = services;

  app.get('/attempts/:id/hand-over', async (c) => {
    const asked = shape.validate({
      ...(c.req.query('as') ? { as: c.req.query('as') } : {}),
      ...(c.req.query('without') ? { without: c.req.query('without')!.split(',') } : {}),
    });
    if (asked.error) throw new Problem(400, 'wrong-query', asked.error.message);
    return answer(c, c.req.param('id'), asked.value);
  });

  app.post('/attempts/:id/hand-over', async (c) => answer(c, c.req.param('id'), await bodyAs(c, shape)));

  async function answer(
    c: Context,
    id: string,
    { as, without, blurred }: Pick<HandOverOrder, 'as' | 'without' | 'blurred'>,
  ): Promise<Response> {
    const attempt = found(store.attempts.get(id), 'attempt', id);
    if (attempt.state !== 'ready')
      throw new Problem(
        409,
        'not-analysed',
        'this attempt is still being recorded or analysed; ask again when it is ready',
      );
    const order: HandOverOrder = {
      as,
      without,
      blurred,
      base: new URL(c.req.url).origin,
      contrast: without.includes('parted') && without.includes('pictures') ? null : await contrastOf(attempt),
      advice: without.includes('advice') ? [] : (await inTime(adviceOn(store, contrasts, attempt))).advice,
    };
    const written = found(await inTime(desk.handOver(id, version, order)), 'attempt', id);
    const [type, ending] = types[as];
    return new Response(written, {
      headers: {
        'content-type': `${type}; charset=utf-8`,
        'content-disposition': `attachment; filename="${id}.${ending}"`,
      },
    });
  }

  /** Against passing attempts of the same environment or, where there are few, of any. */
  async function contrastOf({ id, test, environment }: Attempt): Promise<HandOverOrder['contrast']> {
    const { sketches } = store;
    const own = sketches.baselineIds(test.id, id, environmentKey(environment), mostPassing);
    const passing = own.length >= fewPassing ? own : sketches.baselineIds(test.id, id, undefined, mostPassing);
    return passing.length ? inTime(contrasts.of([id], passing)) : null;
  }

  return app;
}
