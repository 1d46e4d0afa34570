import { said } from '../evidence/labels.ts';
import { deeds } from './deeds.ts';
import type { ClueKind } from './clue.ts';
import { ofPassing, parted } from './scene.ts';
import { doneElsewhere } from './step-left-out.ts';

/** The test did what passing attempts do, but not when they do it. */
export const stepOutOfOrder: ClueKind = {
  code: 'step-out-of-order',
  about: 'A step was taken earlier or later than passing attempts take it.',
  find: (scene) =>
    parted(scene, 'step')
      .filter((one) => one.direction === 'lacks')
      .flatMap((one) => {
        const slot = scene.against!.slots[one.slot]!;
        const there = deeds.test(slot.sig) ? doneElsewhere(scene, slot) : -1;
        if (there < 0) return [];
        const step = scene.sketch.steps[scene.against!.slots[there]!.members[0]!]!;
        return [
          {
            at: step.at,
            summary: `${said(slot.label)} came ${there > one.slot ? 'later' : 'earlier'} than ${ofPassing(one.passing[1] - one.passing[0], one.passing[1])}`,
            strength: 0.9,
            evidence: step.events,
          },
        ];
      })
      .slice(0, 2),
};
