import Joi from 'joi';
import type { IntakeFields } from '../ingest/delivered/report-attempts.ts';
import { Problem } from './problem.ts';

/** What is said of a delivery as a whole. */
export const fieldShapes = {
  run: Joi.string().max(300).allow(''),
  zone: Joi.number()
    .integer()
    .min(-14 * 60)
    .max(14 * 60),
  labels: Joi.object().pattern(Joi.string().max(100), Joi.string().allow('').max(1000)).max(50),
  secrets: Joi.array().items(Joi.string().min(3).max(2000)).max(500),
};

export interface Told {
  run?: string;
  zone?: number;
  labels?: Record<string, string>;
  secrets?: string[];
}

export const intakeFields = ({ run, zone, labels, secrets }: Told): IntakeFields => ({
  ...(run ? { run: run.slice(0, 300) } : {}),
  ...(labels ? { labels } : {}),
  ...(zone === undefined ? {} : { zoneMinutes: zone }),
  ...(secrets ? { secrets } : {}),
});

export const jsonField = (text: string | undefined, name: string): unknown => {
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

/** Fields of a form, each a text. @throws Problem naming the field that is wrong */
export function fieldsOfForm(form: Record<string, string>): IntakeFields {
  const zone = valid<number>(fieldShapes.zone, form.zone || undefined, 'zone');
  const labels = valid<Record<string, string>>(fieldShapes.labels, jsonField(form.labels, 'labels'), 'labels');
  const secrets = valid<string[]>(fieldShapes.secrets, jsonField(form.secrets, 'secrets'), 'secrets');
  return intakeFields({
    ...(form.run ? { run: form.run } : {}),
    ...(zone === undefined ? {} : { zone }),
    ...(labels ? { labels } : {}),
    ...(secrets ? { secrets } : {}),
  });
}
