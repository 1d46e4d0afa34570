import { endOf } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { ClueKind } from './clue.ts';
import { lineOf, stateAt } from './scene.ts';

/** The element is in the page but cannot be seen: the layout hides it, or has moved it off the edge. */
export const targetHidden: ClueKind = {
  code: 'target-hidden',
  about: 'The target was in the page but not to be seen when it was used.',
  find: (scene) => {
    const { failing } = scene;
    const segment = failing && (stateAt(scene, failing) ?? stateAt(scene, failing, endOf(failing) + 20));
    const line = failing && lineOf(scene, failing);
    if (!failing || !segment || !line || segment.state.node === null) return [];
    const { visible, inView, box } = segment.state;
    const refused =
      failing.data.error?.code === 'element not interactable' ||
      failing.data.error?.code === 'move target out of bounds';
    // Links are found by the words they show: one that is there by its words and not found shows none.
    const unfound =
      failing.data.error?.code === 'no such element' && Boolean(failing.data.locator?.using.includes('link text'));
    const empty = failing.data.action === 'read' && failing.data.result === '';
    const off = inView === false && box !== undefined && (box.x + box.width <= 0 || box.y + box.height <= 0);
    if (!(refused || empty || unfound) || !(visible === false || off)) return [];
    return [
      {
        at: failing.at,
        summary: `${targetName(failing.data, nameAt(line, failing.at))} was in the page but ${off && visible !== false ? 'beyond its edge' : 'not shown'}`,
        strength: refused || unfound ? 0.9 : 0.7,
        evidence: [failing.id, segment.event],
      },
    ];
  },
};
