import { endOf } from '../evidence/event.ts';
import type { ClueKind } from './clue.ts';
import { staleSteps } from './stale-steps.ts';

/** The driver itself said that the reference is stale. True by definition, silent about why and when. */
export const staleReferenceTold: ClueKind = {
  code: 'stale-reference-told',
  about: 'The browser answered that the element reference is stale.',
  find: (evidence) =>
    staleSteps(evidence).map((step) => ({
      at: endOf(step),
      summary: `${step.data.label}: the browser says the reference is stale`,
      strength: 0.7,
      evidence: [step.id],
    })),
};
