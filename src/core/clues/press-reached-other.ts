import { quote, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { pointerPresses } from './pointer-press.ts';
import { ofPassing, sameInPassing, type Scene } from './scene.ts';

/** The press reached another element than the one it was meant for: its own place lies outside the target's box. */
export const pressReachedOther: ClueKind = {
  code: 'press-reached-other',
  about: 'The press reached another element than the one it was meant for.',
  find: (scene) => {
    const parted = reachedInPassing(scene);
    if (parted.length) return parted;
    return pointerPresses(scene).flatMap(({ press, step, line, inside }) =>
      inside
        ? []
        : [
            {
              at: press.at,
              summary: `The press meant for ${quote(shorten(line.label, 30))} reached ${press.data.label ?? 'something else'}`,
              strength: 0.9,
              evidence: [step.id, press.id],
            },
          ],
    );
  },
};

/** Presses by pointer actions that reached something else than the same press did in every passing attempt. */
function reachedInPassing(scene: Scene): Omit<Clue, 'code'>[] {
  return scene.sketch.steps.flatMap((step) => {
    if (step.reached === undefined) return [];
    const others = sameInPassing(scene, step).flatMap(({ reached }) => reached ?? []);
    const [usual] = others;
    if (!usual || usual === step.reached || others.some((one) => one !== usual)) return [];
    const count = others.length;
    return [
      {
        at: step.at,
        until: step.until,
        summary: `${step.label} reached ${step.reached}, ${ofPassing(count, count)} ${usual}`,
        strength: count >= 2 ? 0.95 : 0.8,
        evidence: step.events,
      },
    ];
  });
}
