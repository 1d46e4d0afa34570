import Joi from 'joi';
import { causeCodes } from '../../core/causes/cause.ts';
import { decisionKinds, type Decision } from '../../core/families/decision.ts';
import { familyStates } from '../../core/families/verdict.ts';

/** What somebody decides about a family, as it is asked for. */
export type Decided = Pick<Decision, 'kind' | 'text'> & {
  [key in 'cause' | 'until' | 'about' | 'pin']?: NonNullable<Decision[key]>;
};

const year = 366 * 86_400_000;
const name = Joi.string().max(200);

export const decisionShape = Joi.object<Decided>({
  kind: Joi.string()
    .valid(...decisionKinds)
    .required(),
  cause: Joi.string()
    .valid(...causeCodes)
    .when('kind', { is: Joi.valid('confirm', 'clear', 'stand'), then: Joi.required(), otherwise: Joi.forbidden() }),
  text: Joi.string()
    .allow('')
    .max(20_000)
    .default('')
    .when('kind', {
      switch: [
        { is: 'state', then: Joi.valid(...familyStates).required() },
        // Shown as a link: nothing but an address of the web may be one.
        {
          is: Joi.valid('link', 'unlink'),
          then: Joi.string()
            .uri({ scheme: ['http', 'https'] })
            .max(2000)
            .required(),
        },
        { is: Joi.valid('own', 'owner', 'strike', 'speaks-for', 'speaks-against'), then: Joi.string().trim().max(500) },
        { is: Joi.valid('suppose', 'moment'), then: Joi.string().trim().disallow('').max(500).required() },
      ],
    }),
  until: Joi.number()
    .integer()
    .min(0)
    .max(Date.now() + 100 * year)
    .when('text', { is: 'quarantined', then: Joi.optional(), otherwise: Joi.forbidden() }),
  about: Joi.number()
    .integer()
    .min(1)
    .when('kind', {
      switch: [
        { is: Joi.valid('speaks-for', 'speaks-against', 'strike', 'restore', 'unpin'), then: Joi.required() },
        { is: 'own', then: Joi.optional() },
      ],
      otherwise: Joi.forbidden(),
    }),
  pin: Joi.object({
    attempt: name,
    moment: Joi.number().min(-1e9).max(1e9),
    event: name,
    what: Joi.string().max(500),
    series: name,
  })
    .or('attempt', 'series')
    .with('moment', 'attempt')
    .with('event', 'attempt')
    .when('kind', {
      is: Joi.valid('speaks-for', 'speaks-against', 'moment'),
      then: Joi.required(),
      otherwise: Joi.forbidden(),
    }),
});
