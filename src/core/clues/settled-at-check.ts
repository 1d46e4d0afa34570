import { endOf } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { lineOf, timedOut } from './scene.ts';

/** A page that has been at rest this long has said what it has to say, ms. */
const restMs = 60;

/** When the value was read nothing was under way, and it did not change any more: waiting longer would not have helped. */
export const settledAtCheck: ClueKind = {
  code: 'settled-at-check',
  about: 'Nothing was under way when the value was read, and it did not change afterwards.',
  find: (scene) => {
    const { failing } = scene;
    if (!failing || failing.data.error || failing.data.action !== 'read' || timedOut(scene)) return [];
    const line = lineOf(scene, failing);
    const segment = line && segmentAt(line, endOf(failing));
    if (!line || !segment || line.segments.some((one) => one.from > endOf(failing) && one.kind !== 'moved')) return [];
    const open = scene.network.some((one) => one.at < endOf(failing) && endOf(one) > failing.at);
    const leaving = scene.page.some(
      (one) =>
        (one.kind === 'navigation-started' || one.kind === 'navigation-committed') && one.at > failing.at - restMs,
    );
    if (open || leaving) return [];
    return [
      {
        at: failing.at,
        summary: `${targetName(failing.data, nameAt(line, failing.at))} was read with nothing under way, and did not change afterwards`,
        strength: 0.9,
        evidence: [failing.id, segment.event],
      },
    ];
  },
};
