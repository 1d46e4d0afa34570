import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** The browser refused: the element is there and cannot be used as it is. */
export const notInteractableTold: ClueKind = {
  code: 'not-interactable-told',
  about: 'The browser said that the element cannot be interacted with: not shown, or out of view.',
  find: (scene) => {
    const moment = momentOf(scene);
    if (!moment || scene.failure?.kind !== 'not-interactable') return [];
    return [{ ...moment, summary: 'The browser says that the element cannot be interacted with', strength: 0.8 }];
  },
};
