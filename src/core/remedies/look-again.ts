import { duration, quote, said, shorten } from '../evidence/labels.ts';
import type { Adviser } from './advice.ts';
import { inPassing, sameStep, shownStep } from './case.ts';
import { momentAt } from './told.ts';

/** How long a check may be looked at again, ms. */
const limitMs = 5000;

/**
 * Look until it is so, where a check looked once and what it wanted came a moment later: told where passing attempts read
 * one and the same, and the element came to read it here.
 */
export const lookAgain: Adviser = (about) => {
  const { step, subject } = about;
  if (!step || step.action !== 'read' || step.value === undefined || step.polls !== undefined) return [];
  const passing = sameStep(about, step, 'passing').filter((one) => one.step.value !== undefined);
  const values = new Set(passing.map((one) => one.step.value));
  const [wanted] = values;
  if (values.size !== 1 || wanted === undefined || wanted === step.value) return [];
  const line = step.locator === undefined ? undefined : subject.evidence.lifelines.get(step.locator);
  const came = line?.segments.find((one) => one.from > step.at && one.state.text === wanted);
  if (!came) return [];
  const count: [number, number] = [passing.length, passing.length];
  return [
    {
      kind: 'condition',
      text: `Let ${said(step.label)} look again until it reads ${quote(shorten(wanted, 40))}, for up to ${duration(limitMs)}, instead of once`,
      because: `It read so ${inPassing(count)}; here it came to do so ${duration(came.from - step.at)} after it was looked at`,
      passing: count,
      failing: null,
      shown: [
        shownStep(momentAt(subject, step)),
        { attempt: subject.id, event: came.event, at: came.from },
        shownStep(passing[0]!),
      ],
      change: { at: step.events, change: { do: 'look again', limitMs } },
    },
  ];
};
