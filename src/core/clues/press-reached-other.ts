import { endOf } from '../evidence/event.ts';
import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { lineOf } from './scene.ts';

/** Beyond the target by this, a press was not meant for what it reached. */
const outsidePx = 2;

/** The press reached another element than the one it was meant for: its own place lies outside the target's box. */
export const pressReachedOther: ClueKind = {
  code: 'press-reached-other',
  about: 'The press reached another element than the one it was meant for.',
  find: (scene) =>
    scene.page.flatMap((press) => {
      if (press.kind !== 'press' || press.data.x === undefined || press.data.y === undefined) return [];
      const step = scene.steps.find(
        (one) => one.at <= press.at && endOf(one) + 40 >= press.at && one.data.action === 'keys',
      );
      if (!step) return [];
      const meant = scene.steps.findLast(
        (one) => one.at < step.at && one.data.locator && (one.data.subject === 'rect' || one.data.action === 'find'),
      );
      const line = meant && lineOf(scene, meant);
      const box = line && line.segments.findLast((s) => s.from <= press.at)?.state.box;
      if (!line?.label || !box) return [];
      const { x, y } = { x: press.data.x, y: press.data.y };
      const inside =
        x >= box.x - outsidePx &&
        x <= box.x + box.width + outsidePx &&
        y >= box.y - outsidePx &&
        y <= box.y + box.height + outsidePx;
      if (inside) return [];
      return [
        {
          at: press.at,
          summary: `The press meant for ${quote(shorten(line.label, 30))} reached ${press.data.label ?? 'something else'}`,
          strength: 0.9,
          evidence: [step.id, press.id],
        },
      ];
    }),
};
