import { said } from '../evidence/labels.ts';
import type { Slot } from '../contrast/line-up.ts';
import type { ClueKind } from './clue.ts';
import { deeds } from './deeds.ts';
import { failingStep, ofPassing, parted, type Scene } from './scene.ts';

/** A step that passing attempts take was not taken, and the test went on without it. */
export const stepLeftOut: ClueKind = {
  code: 'step-left-out',
  about: 'A step that passing attempts take was left out, and the test went on.',
  find: (scene) => {
    const end = failingStep(scene);
    const failed = end?.error && end.locator;
    // Where it failed it came no further: what others do after that it did not leave out.
    const index = end ? scene.sketch.steps.indexOf(end) : scene.sketch.steps.length - 1;
    const last = scene.against?.slots.findIndex((slot) => slot.members[0] === index) ?? -1;
    return (
      parted(scene, 'step')
        .filter((one) => one.direction === 'lacks' && one.slot < last)
        // What it failed at it did not leave out: it was trying.
        .filter((one) => !failed || !scene.against!.slots[one.slot]!.sig.endsWith(` ${failed}`))
        .filter((one) => deeds.test(scene.against!.slots[one.slot]!.sig))
        .filter((one) => doneElsewhere(scene, scene.against!.slots[one.slot]!) < 0)
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

/** The place at which an attempt did what others do at another, and where none of them does it; -1 when it did not do it at all. */
export function doneElsewhere({ against }: Scene, { sig, members }: Slot): number {
  if (members[0]! >= 0) return -1;
  return against!.slots.findIndex(
    (other) => other.sig === sig && other.members[0]! >= 0 && other.members.every((step, who) => who === 0 || step < 0),
  );
}
