import { endOf, type StepEvent } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { lineOf, type Scene } from './scene.ts';

/** Asked this often in vain, it was asked on purpose. */
const leastTries = 2;

/** A wait asked again and again about a node that was gone, while another one stood in its place. */
export const polledDetached: ClueKind = {
  code: 'polled-detached',
  about: 'A wait kept asking about an element that had been replaced, while a fresh one matched.',
  find: (scene) =>
    staleByWait(scene).flatMap((stale) => {
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

/** The tries that were answered with a stale reference, wait by wait. */
function staleByWait({ steps, insideWait }: Scene): StepEvent[][] {
  const waits = new Map<string, StepEvent[]>();
  for (const step of steps) {
    const wait = step.data.error?.code === 'stale element reference' ? insideWait.get(step.id) : undefined;
    if (wait === undefined) continue;
    const tries = waits.get(wait);
    if (tries) tries.push(step);
    else waits.set(wait, [step]);
  }
  return [...waits.values()];
}
