import { median } from '../stats/median.ts';
import type { ClueKind } from './clue.ts';
import { ofPassing, sameInPassing } from './scene.ts';
import { thresholdsOf } from './thresholds.ts';

/** Fewer steps than this say nothing of a machine. */
const leastSteps = 5;
/** This share of all steps has to be slower: a service that is slow stretches one or two. */
const leastShare = 0.75;
/** So many plain questions, all slower, say it by themselves; of the steps most have to be slower then. */
const manyQuestions = 10;
const shareOfMany = 0.5;
/** Steps shorter than this are all noise, ms. */
const floorMs = 4;

/** Not one thing took long but everything did, by about the same factor: the machine was short of time. */
export const allStretched: ClueKind = {
  code: 'all-stretched',
  about: 'Every step took longer than in passing attempts, by about the same factor.',
  find: (scene) => {
    const ratios = scene.sketch.steps
      .filter((step) => !step.polls && !step.error)
      .flatMap((step) => {
        const others = sameInPassing(scene, step)
          .filter((one) => !one.polls)
          .map((one) => one.until - one.at);
        if (others.length === 0) return [];
        return [
          {
            event: step.events[0]!,
            ratio: Math.max(floorMs, step.until - step.at) / Math.max(floorMs, median(others)),
          },
        ];
      });
    const { pace } = scene.sketch;
    const paces = scene.passing.flatMap((one) => one.pace?.ms ?? []);
    if (!pace || paces.length === 0 || ratios.length + pace.count < leastSteps) return [];
    const questions = Math.max(floorMs, pace.ms) / Math.max(floorMs, median(paces));
    const share = pace.count >= manyQuestions ? shareOfMany : leastShare;
    const slower = ratios.filter(({ ratio }) => ratio > 1.3);
    const factor = Math.min(questions, median([...ratios.map(({ ratio }) => ratio), questions]));
    // Under this a machine is merely busy.
    const leastFactor = thresholdsOf(scene).stretchedBy;
    if (factor < leastFactor || slower.length < ratios.length * share) return [];
    const first = scene.steps[0]!;
    return [
      {
        at: first.at,
        until: scene.until,
        summary: `Plain finds and reads took ${pace.ms.toFixed(0)} ms each against ${median(paces).toFixed(0)} ms ${ofPassing(scene.passing.length, scene.passing.length)}, and ${slower.length} of ${ratios.length} steps were slower`,
        strength: Math.min(1, 0.7 + (factor - leastFactor) * 0.3),
        evidence: slower.length ? slower.slice(0, 6).map(({ event }) => event) : [first.id],
      },
    ];
  },
};
