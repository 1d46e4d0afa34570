import { said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing, sameInPassing } from './scene.ts';

/** It failed on a page that no passing attempt was ever on: another way was taken before. */
export const otherPage: ClueKind = {
  code: 'other-page',
  about: 'It failed on a page that passing attempts are never on.',
  find: (scene) => {
    const step = failingStep(scene);
    if (!step?.page) return [];
    const others = sameInPassing(scene, step).filter((one) => one.page !== undefined);
    const never = !scene.passing.some((one) => one.steps.some(({ page }) => page === step.page));
    if (others.length === 0 || !never) return [];
    return [
      {
        at: step.at,
        summary: `${said(step.label)} was done on ${step.page}, where no passing attempt was; ${ofPassing(others.length, others.length)} it was ${others[0]!.page!}`,
        strength: 0.9,
        evidence: step.events,
      },
    ];
  },
};
