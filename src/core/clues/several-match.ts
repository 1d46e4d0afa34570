import { said } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';

/** One was asked for and used where several match: the first is taken, whichever that is. */
export const severalMatch: ClueKind = {
  code: 'several-match',
  about: 'One element was used where the locator matches several.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      if (!['press', 'type', 'read'].includes(step.action) || (step.matches ?? 0) < 2) return [];
      return [
        {
          at: step.at,
          summary: `${step.matches} elements match where ${said(step.label)} used the first`,
          strength: step.action === 'read' ? 0.5 : 0.85,
          evidence: step.events,
        },
      ];
    }),
};
