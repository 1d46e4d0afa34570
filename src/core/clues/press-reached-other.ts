import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { pointerPresses } from './pointer-press.ts';

/** The press reached another element than the one it was meant for: its own place lies outside the target's box. */
export const pressReachedOther: ClueKind = {
  code: 'press-reached-other',
  about: 'The press reached another element than the one it was meant for.',
  find: (scene) =>
    pointerPresses(scene).flatMap(({ press, step, line, inside }) =>
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
    ),
};
