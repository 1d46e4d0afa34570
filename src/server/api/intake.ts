import type { HttpBindings } from '@hono/node-server';
import { Hono } from 'hono';
import type { IncomingMessage } from 'node:http';
import { isTime } from '../../core/formats/times.ts';
import type { SpooledFile } from '../ingest/delivered/intake-thread.ts';
import { DeliveryRefused, receive, type Received } from '../ingest/delivered/receive.ts';
import { TooManyDeliveries } from '../jobs/intakes.ts';
import type { IntakeFields } from '../ingest/delivered/report-attempts.ts';
import type { Services } from './context.ts';
import { fieldsOfForm, jsonField } from './intake-fields.ts';
import { Problem } from './problem.ts';

/** Takes in what other runners left behind. */
export function intakeRoutes({ intakes }: Services): Hono<{ Bindings: HttpBindings }> {
  const app = new Hono<{ Bindings: HttpBindings }>();

  app.get('/intake', (c) => c.json({ intakes: intakes.running() }));

  app.post('/intake', async (c) => {
    intakes.warm();
    const { spool, files, fields } = await received(c.env.incoming);
    let told: IntakeFields;
    let timed: SpooledFile[];
    try {
      if (!files.length) throw new Problem(400, 'no-files', 'there is no file in it; send files as the field “files”');
      told = fieldsOfForm(fields);
      timed = withTimes(files, jsonField(fields.modified, 'modified'));
    } catch (error) {
      spool.close();
      throw error;
    }
    try {
      return c.json(await intakes.take(spool, timed, told));
    } catch (error) {
      if (error instanceof TooManyDeliveries) throw new Problem(429, 'too-many', error.message);
      throw new Problem(422, 'not-taken', (error as Error).message);
    }
  });

  app.delete('/intake/:id', async (c) => {
    const id = c.req.param('id');
    if (!(await intakes.stop(id)))
      throw new Problem(404, 'not-found', `no delivery “${id}” is being read; it may have ended already`);
    return c.json({ stopped: id });
  });

  return app;
}

async function received(request: IncomingMessage): Promise<Received> {
  try {
    return await receive(request);
  } catch (error) {
    if (error instanceof DeliveryRefused) throw new Problem(error.status, 'unreadable-delivery', error.message);
    throw error;
  }
}

/** A page cannot set when a file was written; it tells it beside them. */
function withTimes(files: readonly SpooledFile[], told: unknown): SpooledFile[] {
  const times = (told !== null && typeof told === 'object' ? told : {}) as Record<string, unknown>;
  return files.map((file) => {
    const at = Object.hasOwn(times, file.name) ? Number(times[file.name]) : NaN;
    return isTime(at) && at > 0 ? { ...file, modifiedAt: at } : file;
  });
}
