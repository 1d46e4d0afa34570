import { endOf } from '../evidence/event.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';
import { staleSteps } from './stale-steps.ts';

/** The driver itself said that the reference is stale. True by definition, silent about why and when. */
export const staleReferenceTold: ClueKind = {
  code: 'stale-reference-told',
  about: 'The browser answered that the element reference is stale.',
  find: (scene) => {
    const steps = staleSteps(scene);
    const moment = momentOf(scene);
    // Without a step the failure's own message still says it.
    if (steps.length === 0 && !scene.failing && moment && scene.failure?.kind === 'stale-element')
      return [{ ...moment, summary: 'The browser says that a reference is stale', strength: 1 }];
    return steps.map((step) => ({
      at: endOf(step),
      summary: `${step.data.label}: the browser says the reference is stale`,
      strength: 0.7,
      evidence: [step.id],
    }));
  },
};
