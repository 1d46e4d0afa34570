import { duration, said } from '../evidence/labels.ts';
import type { Adviser } from './advice.ts';
import { shownAt, shownStep } from './case.ts';
import { targetOf } from './targets.ts';
import { momentAt } from './told.ts';

/** Keys go to whatever has the focus: press their field right before them, not long before. */
export const focusFirst: Adviser = ({ subject, step }) => {
  if (step?.action !== 'keys') return [];
  const { steps } = subject.sketch;
  const press = steps.findLast((one) => one.action === 'press' && one.at < step.at);
  const target = press?.locator === undefined ? undefined : targetOf(press.locator, [subject.evidence]);
  // Keys of the test itself may have gone on to another field since.
  const moved = steps.some((one) => one.action === 'keys' && one.at > (press?.at ?? 0) && one.at < step.at);
  if (!press || !target || moved) return [];
  const at = momentAt(subject, step);
  const stolen = subject.evidence.page.findLast(
    (one) => one.kind === 'focus' && one.at > press.until && one.at < at.at,
  );
  return [
    {
      kind: 'step',
      text: `Do ${said(press.label)} again right before ${said(step.label)}, so that the keys go where they belong`,
      because: `It was done ${duration(at.at - press.until)} before the keys${stolen ? `; ${duration(at.at - stolen.at)} before them the focus went on by itself` : ''}`,
      passing: null,
      failing: null,
      shown: [shownStep(at), shownStep(momentAt(subject, press)), ...(stolen ? [shownAt(subject, stolen)] : [])],
      change: { at: step.events, change: { do: 'put before', statements: [{ do: 'press', target }] } },
    },
  ];
};
