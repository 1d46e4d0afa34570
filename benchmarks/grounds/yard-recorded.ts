// The yard's recordings in the shape in which those of other sites come.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Label } from '../../demo/yard/attempt.ts';
import { mechanisms } from '../../demo/yard/mechanisms.ts';
import { isCauseCode } from '../../src/core/causes/cause.ts';
import type { RecordedSite } from '../sites/recorded.ts';

const known = new Map(mechanisms.map((one) => [one.id, one]));

export const yardLabels = (from: string): Label[] =>
  (JSON.parse(readFileSync(join(from, 'labels.json'), 'utf8')) as Label[]).filter(({ mechanism }) =>
    known.has(mechanism),
  );

/** @param from the folder that `npm run record-yard` recorded into */
export const recordedYard = (from: string): RecordedSite => ({
  name: 'yard',
  data: from,
  attempts: yardLabels(from).flatMap(({ id, mechanism, cause, outcome, hurts, message }) => {
    if (!isCauseCode(cause)) return [];
    const meant = known.get(mechanism)!.passes ? 'passed' : 'failed';
    const hurt = hurts && outcome === meant;
    return [
      { site: 'yard', caseId: mechanism, cause, id, outcome, hurt, honest: outcome === 'passed' && !hurts, message },
    ];
  }),
});
