import { Hono } from 'hono';
import Joi from 'joi';
import { linearPattern } from '../../core/patterns/linear-pattern.ts';
import type { StandingRules } from '../store/rules.ts';
import type { Services } from './context.ts';
import { bodyAs } from './problem.ts';

const part = Joi.string().min(1).max(300);
const pattern = Joi.string()
  .min(1)
  .max(500)
  .custom((value: string, helpers) => {
    try {
      // A pattern that fits nothing would mask between every two letters.
      return linearPattern(value).fits('') ? helpers.message({ custom: `“${value}” also fits an empty text` }) : value;
    } catch (error) {
      return helpers.message({ custom: `“${value}” is no regular expression: ${(error as Error).message}` });
    }
  });
const shape = Joi.object<StandingRules>({
  frames: Joi.object({
    own: Joi.array().items(part).max(100).default([]),
    library: Joi.array().items(part).max(100).default([]),
  }).default({ own: [], library: [] }),
  masks: Joi.array().items(pattern).max(100).default([]),
});

/** Standing rules by which evidence is read and masked. */
export function ruleRoutes({ store }: Services): Hono {
  const app = new Hono();
  app.get('/rules', (c) => c.json(store.rules.get()));
  app.put('/rules', async (c) => {
    store.rules.set(await bodyAs(c, shape));
    return c.json(store.rules.get());
  });
  return app;
}
