import { pathOf, said, shorten } from '../evidence/labels.ts';
import { endOf, unanswered } from '../evidence/event.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { Clue, ClueKind } from './clue.ts';
import type { Scene } from './scene.ts';

/** A page is left within this of the step that leaves it, ms. */
const leavesWithinMs = 250;
/** What ends this near to the leaving was ended by it, ms. */
const cutWithinMs = 120;

/**
 * The test went on to another page while the page it left was still going somewhere itself, or still sending what had
 * been done on it: neither came to its end.
 */
export const navigationCutOff: ClueKind = {
  code: 'navigation-cut-off',
  about:
    'The test left the page while a navigation of the page’s own, or something it was sending, was still under way.',
  find: (scene) =>
    scene.page.flatMap((leaving): Omit<Clue, 'code'>[] => {
      if (leaving.kind !== 'navigation-started') return [];
      const step = scene.steps.findLast(
        (one) =>
          (one.data.action === 'open' || one.data.action === 'navigate') &&
          one.at <= leaving.at &&
          leaving.at - one.at <= leavesWithinMs,
      );
      const cut = step && cutOffBy(scene, leaving.at, leaving.data.context);
      if (!step || !cut) return [];
      return [
        {
          at: step.at,
          until: endOf(cut),
          summary: `${said(step.data.label)} cut off ${cut.data.method} ${shorten(pathOf(cut.data.url), 32)}, which had been under way for ${Math.round(leaving.at - cut.at)} ms`,
          strength: 0.95,
          evidence: [step.id, cut.id],
        },
      ];
    }),
};

/** What the page left behind: a document it was going to, or something it was sending; not what passing attempts cut off as well. */
function cutOffBy(scene: Scene, at: number, context: string | undefined): Scene['network'][number] | undefined {
  const usual = new Set(
    scene.passing.flatMap(({ requests }) => requests.flatMap(({ key, ended }) => (ended === 'failed' ? [key] : []))),
  );
  return scene.network.find(
    (one) =>
      one.at < at &&
      endOf(one) >= at - cutWithinMs &&
      (one.data.failed === unanswered || endOf(one) <= at + cutWithinMs) &&
      !one.data.status &&
      one.data.failed !== undefined &&
      (context === undefined || one.data.context === undefined || one.data.context === context) &&
      (one.data.type === 'document' || !['GET', 'HEAD', 'OPTIONS'].includes(one.data.method)) &&
      !['ping', 'beacon'].includes(one.data.type ?? '') &&
      !usual.has(requestKey(one)) &&
      // What ends with the recording was cut off only where it began on the page that was left.
      (one.data.type !== 'document' || one.data.failed !== unanswered),
  );
}
