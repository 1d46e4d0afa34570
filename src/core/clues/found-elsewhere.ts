import { endOf } from '../evidence/event.ts';
import { quote, shorten } from '../evidence/labels.ts';
import { locatorKey, locatorText } from '../evidence/locator.ts';
import { lookedAt } from '../evidence/looked-at.ts';
import type { ClueKind } from './clue.ts';

/** What the test looked for in vain stands in another window or frame. */
export const foundElsewhere: ClueKind = {
  code: 'found-elsewhere',
  about: 'What was not found where the test looked stands in another window or frame.',
  find: (scene) => {
    const { failing, window: windows } = scene;
    const locator = failing?.data.locator;
    const missed = failing?.data.error?.code === 'no such element' || failing?.data.error?.code === 'no such window';
    if (!failing || !locator || !missed) return [];
    const own = lookedAt(scene, failing);
    if (own === undefined) return [];
    const line = scene.lifelines.get(locatorKey(locator));
    const there = line?.segments.find(
      (one) => one.state.node !== null && one.context !== undefined && one.context !== own,
    );
    if (!there) return [];
    const frame = !windows.some((one) => one.data.context === there.context);
    return [
      {
        at: endOf(failing),
        summary: `${quote(shorten(locatorText(locator), 32))} stands in ${frame ? 'a frame' : 'another window'} that the test was not looking at`,
        strength: 1,
        evidence: [failing.id, there.event],
      },
    ];
  },
};
