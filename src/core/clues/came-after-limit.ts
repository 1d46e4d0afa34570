import { duration, targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { gaveUpAt, lineOf, timedOut } from './scene.ts';

/** What was waited for came, but after the wait had given up. */
export const cameAfterLimit: ClueKind = {
  code: 'came-after-limit',
  about: 'What was waited for came after the wait had ended by its limit.',
  find: (scene) => {
    const { failing } = scene;
    const end = gaveUpAt(scene);
    const line = failing && lineOf(scene, failing);
    if (!failing || end === undefined || !line || !timedOut(scene)) return [];
    const later = line.segments.find(
      (one) => one.from > end && ['appeared', 'changed', 'uncovered'].includes(one.kind),
    );
    if (!later) return [];
    return [
      {
        at: end,
        until: later.from,
        summary: `${targetName(failing.data, nameAt(line, end))} changed ${duration(later.from - end)} after the wait had given up`,
        strength: 0.95,
        evidence: [failing.id, later.event],
      },
    ];
  },
};
