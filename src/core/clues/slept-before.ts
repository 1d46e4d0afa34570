import { endOf } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep } from './scene.ts';

/** Right before means: nothing else was asked in between but finding what was then used, ms. */
const rightBefore = 150;

/** A fixed sleep stands right before the step it failed at: it waits for a time, not for what it needs. */
export const sleptBefore: ClueKind = {
  code: 'slept-before',
  about: 'A fixed sleep, not a condition, stands right before the step that failed.',
  find: (scene) => {
    const step = failingStep(scene);
    if (!step) return [];
    const pause = scene.waits.findLast((one) => one.kind === 'pause' && endOf(one) <= step.at + 1);
    if (!pause || step.at - endOf(pause) > rightBefore) return [];
    return [
      {
        at: pause.at,
        until: endOf(pause),
        summary: `The test slept ${duration(endOf(pause) - pause.at)} before ${said(step.label)}, whatever the page was doing`,
        strength: 0.8,
        evidence: [pause.id, step.events[0]!],
      },
    ];
  },
};
