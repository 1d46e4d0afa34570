import type { HttpBindings } from '@hono/node-server';
import { Hono, type Context } from 'hono';
import Joi from 'joi';
import type { FileFate } from '../../core/records.ts';
import type { ToSend } from '../jobs/deliveries.ts';
import { DeliveryTrouble } from '../jobs/delivery-body.ts';
import { TooManyDeliveries } from '../jobs/intakes.ts';
import type { Services } from './context.ts';
import { fieldShapes, intakeFields, type Told } from './intake-fields.ts';
import { bodyAs, notFound, Problem, queryNumber } from './problem.ts';

interface Announcement extends Told {
  key: string;
  files: ToSend[];
}

/** Most of one delivery. */
const most = { files: 20_000, bytes: 256 * 1024 ** 3 };
const fates: FileFate[] = ['coming', 'here', 'report', 'read', 'placed', 'shared', 'waits', 'left out', 'known'];

const announcement = Joi.object<Announcement>({
  key: Joi.string()
    .pattern(/^[0-9a-f]{64}$/)
    .required()
    .messages({ 'string.pattern.base': '"key" must be 64 hexadecimal digits, drawn at random by the sender' }),
  files: Joi.array()
    .items(
      Joi.object({
        name: Joi.string().max(1000).required(),
        size: Joi.number().integer().min(0).required(),
        modifiedAt: Joi.number().min(0).max(8.64e15),
      }),
    )
    .min(1)
    .max(most.files)
    .required(),
  ...fieldShapes,
});

async function inWords<T>(work: () => Promise<T> | T): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof DeliveryTrouble) throw new Problem(error.status, error.code, error.message);
    if (error instanceof TooManyDeliveries) throw new Problem(429, 'too-many', error.message);
    throw error;
  }
}

/** Deliveries that are sent file by file: announced, sent in any pieces, taken, and gone on with after anything broke. */
export function deliveryRoutes({ store, deliveries, intakes }: Services): Hono<{ Bindings: HttpBindings }> {
  const app = new Hono<{ Bindings: HttpBindings }>();
  const idOf = (c: Context): string => c.req.param('id')!;

  app.get('/deliveries', (c) => c.json({ deliveries: deliveries.list() }));

  app.post('/deliveries', async (c) => {
    const { key, files, ...told } = await bodyAs(c, announcement);
    if (files.reduce((sum, { size }) => sum + size, 0) > most.bytes)
      throw new Problem(413, 'too-large', 'a delivery may have 256 GiB; give it in parts');
    const begun = await inWords(() =>
      deliveries.begin({ key: Buffer.from(key, 'hex'), files, fields: intakeFields(told) }),
    );
    return c.json(begun, 201);
  });

  app.get('/deliveries/:id', (c) => {
    const view = deliveries.view(idOf(c));
    if (!view) throw notFound('delivery', idOf(c));
    return c.json(view);
  });

  app.get('/deliveries/:id/files', (c) => {
    const from = queryNumber(c, 'from', { min: 0, max: 1e6, whole: true }) ?? 0;
    const limit = queryNumber(c, 'limit', { min: 1, max: 1000, whole: true }) ?? 200;
    const asked = c.req.query('fate');
    const fate = fates.find((one) => one === asked);
    if (asked && !fate) throw new Problem(400, 'wrong-fate', `“fate” must be one of ${fates.join(', ')}`);
    const page = deliveries.files(idOf(c), from, limit, fate);
    if (!page) throw notFound('open delivery', idOf(c));
    return c.json(page);
  });

  app.put('/deliveries/:id/files/:number', async (c) => {
    const number = Number(c.req.param('number'));
    const from = queryNumber(c, 'from', { min: 0, max: most.bytes, whole: true }) ?? 0;
    // Left early, the connection stays, so that the answer can still be given.
    const body = c.env.incoming.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>;
    return c.json({ have: await inWords(() => deliveries.receive(idOf(c), number, from, body)) });
  });

  app.post('/deliveries/:id/take', async (c) => c.json(await inWords(() => deliveries.take(idOf(c))), 202));

  // One that is being sent or read is stopped; one that was read is taken back, with all that it brought and changed.
  app.delete('/deliveries/:id', async (c) => {
    const id = idOf(c);
    const read = store.intakes.isDone(id) ? id : store.deliveries.get(id)?.result?.intakeId;
    const done = read !== undefined && store.intakes.isDone(read);
    if (c.req.query('preview') === 'true') {
      if (!done && !deliveries.view(id)) throw notFound('delivery', id);
      return c.json({ goes: done ? store.intakes.weigh(read) : { attempts: 0, files: 0, setBack: 0 } });
    }
    if (done) await intakes.takeBack(read);
    if (!(await deliveries.drop(id)) && !done) throw notFound('delivery', id);
    return c.json({ stopped: id });
  });

  return app;
}
