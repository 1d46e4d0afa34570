import { byPointer } from '../contrast/sketch.ts';
import { sketched } from '../clues/scene.ts';
import { endOf } from '../evidence/event.ts';
import { duration, said } from '../evidence/labels.ts';
import { sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

const measures = /getBoundingClientRect|offsetTop|offsetLeft|getClientRects/;
/** Measured and pressed in one go, ms: nothing moves in between but by the worst of luck. */
const atOnceMs = 20;

/** A place was measured, and pressed by pointer later: whatever moves in between is missed. */
export const placeMeasuredBefore: RiskFinder = {
  kind: 'place-measured-before',
  about: 'A press by pointer went to a place that was measured before.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Risk, 'kind'>[] => {
      if (!byPointer(step) || step.data.error || step.data.given) return [];
      const measured = scene.steps.findLast(
        ({ at, data }) =>
          at < step.at &&
          !data.error &&
          (data.subject === 'place and size' || data.subject === 'rect' || measures.test(data.input ?? '')),
      );
      const drawn = sketched(scene, step);
      if (!measured || !drawn) return [];
      const gap = step.at - endOf(measured);
      // The pointer is on its way within the command, too.
      const way = endOf(step) - step.at;
      if (gap + way < atOnceMs) return [];
      const shifts = scene.page.filter(({ kind }) => kind === 'layout-shift').length;
      return [
        {
          key: drawn.sig,
          step: step.data.label,
          ...sourceOf(scene, drawn),
          at: endOf(measured),
          until: endOf(step),
          summary: `The place of ${said(step.data.label)} was measured ${duration(gap + way)} before the press ended${shifts ? `; the page moved what it shows ${shifts === 1 ? 'once' : `${shifts} times`} in this attempt` : ''}`,
          change: `Press the element itself, or measure its place once it stands still`,
          strength: shifts ? 1 : 0.8,
          evidence: [step.id, measured.id],
        },
      ];
    }),
};
