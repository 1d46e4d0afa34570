import { heldAfter, holds } from '../evidence/held.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { lineOf } from './scene.ts';

/** A field holds something else than was typed into it, and no action of the test made it so. */
export const typedNotHeld: ClueKind = {
  code: 'typed-not-held',
  about: 'The field does not hold what was typed into it.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      const held = heldAfter(scene, step);
      const typed = step.data.input ?? '';
      if (!held || holds(held.text, typed)) return [];
      const line = lineOf(scene, step);
      return [
        {
          at: step.at,
          until: held.at,
          summary: `${quote(shorten(typed, 24))} was typed in ${targetName(step.data, line && nameAt(line, step.at))}, which then held ${held.text ? quote(shorten(held.text, 24)) : 'nothing'}`,
          strength: 1,
          evidence: [step.id, held.event],
        },
      ];
    }),
};
