import type { HttpBindings } from '@hono/node-server';
import { Hono } from 'hono';
import Joi from 'joi';
import { receive, type Received } from '../intake/receive.ts';
import type { IntakeFields } from '../intake/report-attempts.ts';
import type { Services } from './context.ts';
import { Problem } from './problem.ts';

const zone = Joi.number()
  .integer()
  .min(-14 * 60)
  .max(14 * 60);
const labelsShape = Joi.object().pattern(Joi.string().max(100), Joi.string().allow('').max(1000)).max(50);
const secretsShape = Joi.array().items(Joi.string().min(3).max(2000)).max(500);

const json = (text: string | undefined, name: string): unknown => {
  if (text === undefined || text === '') return undefined;
  try {
    return JSON.parse(text);
  } catch {
    throw new Problem(400, 'wrong-field', `the field “${name}” is not readable as JSON`);
  }
};

function valid<T>(shape: Joi.Schema, value: unknown, name: string): T | undefined {
  if (value === undefined) return undefined;
  const { error, value: read } = shape.validate(value) as { error?: Error; value: T };
  if (error) throw new Problem(400, 'wrong-field', `the field “${name}”: ${error.message}`);
  return read;
}

function fieldsOf(fields: Received['fields']): IntakeFields {
  const zoneMinutes = valid<number>(zone, fields.zone || undefined, 'zone');
  const labels = valid<Record<string, string>>(labelsShape, json(fields.labels, 'labels'), 'labels');
  const secrets = valid<string[]>(secretsShape, json(fields.secrets, 'secrets'), 'secrets');
  return {
    ...(fields.run ? { run: fields.run.slice(0, 300) } : {}),
    ...(labels ? { labels } : {}),
    ...(zoneMinutes === undefined ? {} : { zoneMinutes }),
    ...(secrets ? { secrets } : {}),
  };
}

/** Takes in what other runners left behind. */
export function intakeRoutes({ intakes }: Services): Hono<{ Bindings: HttpBindings }> {
  const app = new Hono<{ Bindings: HttpBindings }>();

  app.get('/intake', (c) => c.json({ intakes: intakes.running() }));

  app.post('/intake', async (c) => {
    intakes.warm();
    let received: Received;
    try {
      received = await receive(c.env.incoming);
    } catch (error) {
      throw new Problem(400, 'unreadable-delivery', (error as Error).message);
    }
    if (!received.files.length)
      throw new Problem(400, 'no-files', 'there is no file in it; send files as the field “files”');
    const fields = fieldsOf(received.fields);
    // A page cannot set when a file was written; it tells it beside them.
    const times = (json(received.fields.modified, 'modified') ?? {}) as Record<string, unknown>;
    const files = received.files.map((file) => {
      const at = Number(times[file.name]);
      return { ...file, ...(Number.isFinite(at) && at > 0 ? { modifiedAt: at } : {}) };
    });
    try {
      return c.json(await intakes.take(files, fields));
    } catch (error) {
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
