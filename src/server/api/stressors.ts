import Joi from 'joi';
import { dataShapes, kindsOfStressor, type Stressor, type StressorKind } from '../../core/trials/stressor.ts';

const request = Joi.string()
  .max(300)
  .required()
  .description('a request as the evidence tells it, GET /api/fare; * stands for anything');
const ms = Joi.number().min(0).max(60_000).required();
const factor = (least: number): Joi.NumberSchema => Joi.number().min(least).max(50).required();

/** What each kind is given besides its name. */
const fields: Record<StressorKind, Joi.PartialSchemaMap> = {
  hold: { request, ms },
  'hold-until': { request, until: request },
  'late-body': { request, ms },
  fail: {
    request,
    how: Joi.string().valid('status', 'cut', 'never').required(),
    status: Joi.number().integer().min(400).max(599),
  },
  answer: {
    request,
    attempt: Joi.string().max(100).required(),
    exchange: Joi.string().max(200).required(),
    from: Joi.number().integer().min(1).max(1000),
  },
  'slow-line': { ms },
  outside: { how: Joi.string().valid('blocked', 'slow').required(), ms: ms.optional() },
  'slow-processor': { factor: factor(1) },
  timers: { factor: factor(0) },
  pace: { factor: factor(0) },
  jitter: { ms },
  'late-step': { step: Joi.number().integer().min(1).max(100_000).required(), ms },
  window: {
    width: Joi.number().integer().min(100).max(8000).required(),
    height: Joi.number().integer().min(100).max(8000).required(),
  },
  'pixel-ratio': { ratio: Joi.number().min(0.25).max(8).required() },
  zone: { zone: Joi.string().max(60).required() },
  locale: { locale: Joi.string().max(40).required() },
  clock: {
    shiftMs: Joi.number().min(-4e12).max(4e12).required(),
    standing: Joi.boolean(),
  },
  random: { seed: Joi.number().integer().min(0).max(0xffffffff).required() },
  data: {
    shape: Joi.string()
      .valid(...dataShapes)
      .required(),
  },
  animations: { factor: factor(0) },
  'reduced-motion': {},
  'cold-cache': {},
  'drill-before': { drill: Joi.string().max(100) },
  beside: { copies: Joi.number().integer().min(1).max(4).required() },
  background: {},
};

export const kindNames = Object.keys(kindsOfStressor) as StressorKind[];

const oneOf = Joi.alternatives().conditional('.kind', {
  switch: kindNames.map((kind) => ({ is: kind, then: Joi.object({ kind: Joi.string(), ...fields[kind] }) })),
  otherwise: Joi.object({
    kind: Joi.string()
      .valid(...kindNames)
      .required(),
  }).unknown(),
});

/** A list of stressors as it is posted; what is wrong is told of each. */
export const stressorsShape = Joi.array().items(oneOf).max(10).default([]) as Joi.ArraySchema<Stressor[]>;

const kinds = Joi.array()
  .items(Joi.string().valid(...kindNames))
  .max(kindNames.length);

/** What a search may cost, and what it may use. */
export const searchFields = {
  budget: Joi.object({
    trials: Joi.number().integer().min(4).max(1000).default(80),
    minutes: Joi.number().min(0.1).max(600).default(5),
  }).default({ trials: 80, minutes: 5 }),
  allow: kinds,
  forbid: kinds,
};
