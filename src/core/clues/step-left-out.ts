import { said } from '../contrast/features.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing, parted } from './scene.ts';

/** Asking is done as often as it takes; what is missing has to be something that is done. */
const deeds = /^(press|type|keys|perform actions|clear|dialog|window|frame|navigate|open|script)\b/;

/** A step that passing attempts take was not taken, and the test went on without it. */
export const stepLeftOut: ClueKind = {
  code: 'step-left-out',
  about: 'A step that passing attempts take was left out, and the test went on.',
  find: (scene) => {
    const end = failingStep(scene);
    const failed = end?.error && end.locator;
    const last = scene.against?.slots.findLastIndex((slot) => slot.members[0]! >= 0) ?? -1;
    return (
      parted(scene, 'step')
        .filter((one) => one.summary.endsWith(' was not done') && one.slot < last)
        // What it failed at it did not leave out: it was trying.
        .filter((one) => !failed || !scene.against!.slots[one.slot]!.sig.endsWith(` ${failed}`))
        .filter((one) => deeds.test(scene.against!.slots[one.slot]!.sig))
        .slice(0, 3)
        .map((one) => {
          const slot = scene.against!.slots[one.slot]!;
          const after = scene.against!.slots.slice(one.slot).find(({ members }) => members[0]! >= 0)!;
          const step = scene.sketch.steps[after.members[0]!]!;
          return {
            at: step.at,
            summary: `${said(slot.label)} was left out; it was done ${ofPassing(one.passing[1] - one.passing[0], one.passing[1])}`,
            strength: 0.95,
            evidence: step.events,
          };
        })
    );
  },
};
