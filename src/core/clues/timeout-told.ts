import { duration } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** A wait ended by its limit. By itself this says only that something did not come in time. */
export const timeoutTold: ClueKind = {
  code: 'timeout-told',
  about: 'A wait ended by its limit.',
  find: (scene) => {
    const moment = momentOf(scene);
    if (!moment || scene.failure?.kind !== 'timeout') return [];
    const { limitMs } = scene.failure;
    return [{ ...moment, summary: `A wait gave up${limitMs ? ` after ${duration(limitMs)}` : ''}`, strength: 0.7 }];
  },
};
