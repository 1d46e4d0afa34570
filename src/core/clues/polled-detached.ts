import { endOf } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { lineOf } from './scene.ts';

/** Asked this often in vain, it was asked on purpose. */
const leastTries = 2;

/** A wait asked again and again about a node that was gone, while another one stood in its place. */
export const polledDetached: ClueKind = {
  code: 'polled-detached',
  about: 'A wait kept asking about an element that had been replaced, while a fresh one matched.',
  find: (scene) =>
    scene.waits.flatMap((wait) => {
      const stale = scene.steps.filter(
        (step) => scene.insideWait.get(step.id) === wait.id && step.data.error?.code === 'stale element reference',
      );
      const last = stale.at(-1);
      const line = last && lineOf(scene, last);
      // Waits that find again before they ask have seen the fresh one themselves.
      if (!last || !line || stale.some((step) => step.data.element !== last.data.element)) return [];
      const fresh = line.segments.findLast((one) => one.from <= last.at && one.state.node !== null);
      const change = line.segments.findLast(
        (one) => one.from <= endOf(last) && (one.kind === 'replaced' || one.kind === 'removed'),
      );
      if (stale.length < leastTries || !fresh || !change || fresh.from < change.from) return [];
      return [
        {
          at: stale[0]!.at,
          until: endOf(last),
          summary: `${stale.length} tries asked about ${targetName(last.data, nameAt(line, last.at))} as it was before; the one in its place stood there all the while`,
          strength: 1,
          evidence: [last.id, fresh.event, change.event],
        },
      ];
    }),
};
