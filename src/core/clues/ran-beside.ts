import { shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing } from './scene.ts';

/** In a run whose order is drawn anew, something always ran beside: only many attempts tell company from chance. */
const least = { failing: 3, passing: 3 } as const;
/** Of this many neighbours one is found by chance; after the correction for that, this is not. */
const mostQ = 0.05;

/** A certain other test was under way, or had just ended, when this one failed, and not when it passes. */
export const ranBeside: ClueKind = {
  code: 'ran-beside',
  about: 'It fails when a certain other test runs at the same time, or right before, and passes without it.',
  find: (scene) => {
    const step = failingStep(scene) ?? scene.sketch.steps[0];
    if (!step) return [];
    return (scene.together?.differences ?? [])
      .filter(
        (one) =>
          one.kind === 'neighbour' &&
          one.strong &&
          one.q <= mostQ &&
          one.dots.failing[0] === true &&
          one.failing[0] >= least.failing &&
          one.passing[1] >= least.passing,
      )
      .slice(0, 2)
      .map((one) => ({
        at: step.at,
        summary: `It ${shorten(one.summary, 80)}, as ${one.failing[0]} of ${one.failing[1]} that failed did, and ${ofPassing(one.passing[0], one.passing[1])}`,
        strength: one.q <= 0.01 ? 0.95 : 0.75,
        evidence: step.events,
      }));
  },
};
