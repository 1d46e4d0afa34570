import { Hono } from 'hono';
import Joi from 'joi';
import { planWords } from '../../core/keeping/words.ts';
import { linearPattern } from '../../core/patterns/linear-pattern.ts';
import {
  consoleLevels,
  effects,
  noRules,
  requestEnds,
  type Exemption,
  type RulesVersion,
  type StandingRules,
} from '../../core/rules/standing-rules.ts';
import { riskKinds } from '../../core/risks/risk.ts';
import type { Services } from './context.ts';
import { bodyAs, inTime, notFound, Problem } from './problem.ts';

const part = Joi.string().min(1).max(300);
const parts = Joi.array().items(part).max(100).default([]);
const pattern = Joi.string()
  .min(1)
  .max(500)
  .custom((value: string, helpers) => {
    try {
      // A pattern that fits nothing would mask between every two letters, and let everything pass.
      return linearPattern(value).fits('') ? helpers.message({ custom: `“${value}” also fits an empty text` }) : value;
    } catch (error) {
      return helpers.message({ custom: `“${value}” is no regular expression: ${(error as Error).message}` });
    }
  });
const exempt = Joi.array()
  .items(
    Joi.object<Exemption>({
      pattern: pattern.required(),
      reason: Joi.string().trim().min(1).max(500).required(),
      owner: Joi.string().trim().allow('').max(200).default(''),
      until: Joi.number().integer().min(0).max(8.64e15).allow(null).default(null),
    }),
  )
  .unique('pattern')
  .max(200)
  .default([]);
const policy = { effect: Joi.string().valid(...effects), only: parts, exempt };
const hostNames = Joi.array()
  .items(
    Joi.string()
      .max(253)
      .pattern(/^(?:\*\.)?[a-z0-9.-]+(?::\d{1,5})?$/i, 'a host such as pay.example, pay.example:8443 or *.example'),
  )
  .max(200)
  .default([]);
const number = (least: number, most: number, usual: number): Joi.NumberSchema =>
  Joi.number().min(least).max(most).default(usual);
const days = Joi.number().integer().min(0).max(36_500).allow(null).default(null);
const keepingShape = Joi.object({
  terms: Joi.array()
    .items(
      Joi.object({
        run: part.allow('').default(''),
        branch: part.allow('').default(''),
        failing: Joi.object({ pictures: days, rest: days }).default({ pictures: null, rest: null }),
        passing: Joi.object({
          pictures: days,
          rest: days,
          oneIn: Joi.number().integer().min(1).max(10_000).default(1),
        }).default({ pictures: null, rest: null, oneIn: 1 }),
      }),
    )
    .max(50)
    .default([]),
  budgetGb: Joi.number().min(0.001).max(1_000_000).allow(null).default(null),
}).default(noRules.keeping);
const rules = {
  frames: Joi.object({ own: parts, library: parts }).default(noRules.frames),
  masks: Joi.array().items(pattern).max(100).default([]),
  hosts: Joi.object({ own: hostNames, outside: hostNames }).default(noRules.hosts),
  thresholds: Joi.object({
    movedPx: number(1, 1000, noRules.thresholds.movedPx),
    slowCommandMs: number(5, 60_000, noRules.thresholds.slowCommandMs),
    stretchedBy: number(1.1, 100, noRules.thresholds.stretchedBy),
    nearLimit: number(0.05, 1, noRules.thresholds.nearLimit),
  }).default(noRules.thresholds),
  limits: Joi.object({
    events: number(1000, 1_000_000, noRules.limits.events).integer(),
    picturesMb: number(1, 100_000, noRules.limits.picturesMb),
  }).default(noRules.limits),
  console: Joi.object({
    ...policy,
    effect: policy.effect.default(noRules.console.effect),
    levels: Joi.array()
      .items(Joi.string().valid(...consoleLevels))
      .unique()
      .default(noRules.console.levels),
    uncaught: Joi.boolean().default(noRules.console.uncaught),
    swallowed: Joi.boolean().default(noRules.console.swallowed),
    from: Joi.string().valid('own', 'everywhere').default(noRules.console.from),
  }).default(noRules.console),
  requests: Joi.object({
    ...policy,
    effect: policy.effect.default(noRules.requests.effect),
    ends: Joi.array()
      .items(Joi.string().valid(...requestEnds))
      .unique()
      .default(noRules.requests.ends),
  }).default(noRules.requests),
  risks: Joi.object({
    ...policy,
    effect: policy.effect.default(noRules.risks.effect),
    kinds: Joi.array()
      .items(Joi.string().valid(...riskKinds))
      .unique()
      .default(noRules.risks.kinds),
  }).default(noRules.risks),
  keeping: keepingShape,
};
const by = Joi.string().trim().allow('').max(200).default('');
const shape = Joi.object<StandingRules>(rules);
const setShape = Joi.object<StandingRules & { by: string }>({ ...rules, by });
const undoShape = Joi.object<{ by: string; to?: number }>({ by, to: Joi.number().integer().min(0) });

/** Standing rules: by which evidence is read and masked, and which policies attempts are held against. */
export function ruleRoutes({ store, ruling, keeping, changes, desk }: Services): Hono {
  const app = new Hono();
  const held = (): StandingRules & { version: RulesVersion | null } => ({
    ...store.rules.get(),
    version: store.rules.versions(1)[0] ?? null,
  });
  const set = (next: StandingRules, who: string, words?: string): void => {
    const before = store.rules.version();
    store.together(() => store.rules.set(next, who, Date.now(), words));
    if (store.rules.version() === before) return;
    ruling.changed();
    keeping.begin();
    changes.tell({ type: 'rules', id: String(store.rules.version()) });
  };

  app.get('/rules', (c) => c.json(held()));
  app.put('/rules', async (c) => {
    const { by: who, ...next } = await bodyAs(c, setShape);
    set(next, who);
    return c.json(held());
  });
  app.post('/rules/preview', async (c) => {
    const asked = await bodyAs(c, shape);
    const [told, plan] = await inTime(Promise.all([desk.preview(asked), keeping.plan(asked.keeping)]));
    const { letGo: _, ...rest } = plan;
    return c.json({ ...told, keeping: { ...rest, words: planWords(plan) } });
  });
  app.get('/rules/versions', (c) => c.json({ versions: store.rules.versions() }));
  app.get('/rules/versions/:number', (c) => {
    const number = c.req.param('number');
    const rulesThen = /^\d{1,9}$/.test(number) ? store.rules.at(Number(number)) : undefined;
    if (!rulesThen) throw notFound('form of the rules', number);
    return c.json(rulesThen);
  });
  app.post('/rules/undo', async (c) => {
    const { by: who, to } = await bodyAs(c, undoShape);
    const number = store.rules.version();
    if (number === 0) throw new Problem(409, 'nothing-to-undo', 'the rules have not been changed yet');
    const back = to ?? number - 1;
    const then = back < number ? store.rules.at(back) : undefined;
    if (!then) throw notFound('earlier form of the rules', String(back));
    set(then, who, back === 0 ? 'back to no rules at all' : `back to what held as number ${back}`);
    return c.json(held());
  });
  return app;
}
