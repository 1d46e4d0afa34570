import { heldAfter, holds, type Held } from '../evidence/held.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import type { StepEvent } from '../evidence/event.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { lineOf, type Scene } from './scene.ts';

/** A field holds something else than was typed into it, and no action of the test made it so. */
export const typedNotHeld: ClueKind = {
  code: 'typed-not-held',
  about: 'The field does not hold what was typed into it.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      const held = heldAfter(scene, step);
      const typed = step.data.input ?? '';
      if (!held || holds(held.text, typed) || chosenSince(scene, step, held)) return [];
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

/** Whether the test itself pressed what the field then held, as one does with a suggestion: chosen is not lost. */
function chosenSince(scene: Scene, typing: StepEvent, held: Held): boolean {
  if (!held.text) return false;
  return scene.steps.some((step) => {
    if (step.data.action !== 'press' || step.at <= typing.at || step.at > held.at) return false;
    const line = lineOf(scene, step);
    const pressed = line && segmentAt(line, step.at)?.state.text;
    return pressed !== undefined && pressed.includes(held.text);
  });
}
