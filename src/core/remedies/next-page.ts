import type { SketchStep } from '../contrast/sketch.ts';
import type { Adviser } from './advice.ts';
import { sameStep, type Case } from './case.ts';
import { replacePause } from './pauses.ts';
import { waitFor } from './wait-for.ts';

/** What does something to a page, and is lost with it. */
const acting: ReadonlySet<SketchStep['action']> = new Set(['press', 'type', 'keys', 'clear']);

/**
 * Wait for the next page before acting on it: what was done on a page that was being left is lost, and that shows only
 * when what should have come of it is waited for, steps later.
 */
export const onNextPage: Adviser = (about) => {
  const step = actOnOldPage(about);
  return step ? [replacePause, waitFor].flatMap((adviser) => adviser({ ...about, step })) : [];
};

/** The first act that this attempt did on the page of the act before, and every passing attempt on another one. */
function actOnOldPage(about: Case): SketchStep | undefined {
  const { steps } = about.subject.sketch;
  const until = about.step ? steps.indexOf(about.step) : steps.length;
  const acts = steps.slice(0, until).filter(({ action }) => acting.has(action));
  return acts.find((act, i) => {
    if (act.page === undefined || act.page !== acts[i - 1]?.page) return false;
    const passing = sameStep(about, act, 'passing');
    return passing.length > 0 && passing.every(({ step }) => step.page !== undefined && step.page !== act.page);
  });
}
