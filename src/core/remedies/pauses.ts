import { endOf, type StepEvent } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownAt, shownStep } from './case.ts';
import { conditionsAt, type Condition } from './condition.ts';
import { waitUntil } from './change.ts';
import { worthOf } from './conditions.ts';
import { targetOf } from './targets.ts';
import { momentAt, type Moment } from './told.ts';

/** A pause right before a step stands in for something: this long before is right before, ms. */
const rightBefore = 200;

/**
 * A fixed sleep before the step, and what it stood in for: what came while passing attempts slept, in all of
 * them, and had not come when this one woke.
 */
export const replacePause: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const pause = pauseBefore(momentAt(subject, step));
  if (!pause) return [];
  const passing = sameStep(about, step, 'passing').flatMap((moment) => {
    const slept = pauseBefore(moment);
    return slept ? [{ moment, slept }] : [];
  });
  const during = (condition: Condition, { moment, slept }: (typeof passing)[number]): boolean => {
    const held = condition.holds(moment.told.evidence, moment.at);
    return Boolean(held) && (held as { since: number }).since >= slept.at - 20;
  };
  const stood = (passing[0] ? conditionsAt(passing[0].moment.told, passing[0].moment.at) : [])
    .filter((one) => passing.every((other) => during(one, other)))
    .map((condition) => ({
      condition,
      missing: condition.holds(subject.evidence, momentAt(subject, step).at) === false,
      own: condition.locator !== undefined && condition.locator === step.locator,
    }))
    .sort(
      (a, b) =>
        Number(b.missing) - Number(a.missing) ||
        Number(b.own) - Number(a.own) ||
        worthOf(b.condition, step.locator) - worthOf(a.condition, step.locator),
    );
  const found = stood[0];
  const slept = duration(endOf(pause) - pause.at);
  if (!found) return [];
  const held = found.condition.holds(passing[0]!.moment.told.evidence, passing[0]!.moment.at);
  const { locator, asks } = found.condition;
  const target =
    locator === undefined
      ? undefined
      : targetOf(locator, [subject.evidence, ...passing.map((one) => one.moment.told.evidence)]);
  const until = asks?.(target);
  return [
    {
      kind: 'pause',
      text: `Replace the pause of ${slept} before ${said(step.label)} by waiting until ${found.condition.words}`,
      because: `That is what came during the pause ${inPassing([passing.length, passing.length])}${found.missing ? '; here it had not come when the pause was over' : ''}`,
      passing: [passing.length, passing.length],
      failing: [found.missing ? 0 : 1, 1],
      shown: [
        shownAt(subject, pause),
        ...(held && held.event
          ? [{ attempt: passing[0]!.moment.told.id, event: held.event, at: held.since }]
          : [shownStep(passing[0]!.moment)]),
      ],
      ...(until
        ? {
            change: {
              at: step.events,
              change: { do: 'put before', statements: [waitUntil(until)], insteadOfPause: true } as const,
            },
          }
        : {}),
    },
  ];
};

function pauseBefore({ told: { evidence }, step }: Moment): StepEvent | undefined {
  const pause = evidence.waits.findLast((one) => one.kind === 'pause' && endOf(one) <= step.at + 1);
  return pause && step.at - endOf(pause) <= rightBefore ? pause : undefined;
}
