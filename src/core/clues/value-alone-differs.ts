import { said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, parted } from './scene.ts';

/** Nothing parts this attempt from passing ones before the value itself: no request, no step, no page, no element. */
export const valueAloneDiffers: ClueKind = {
  code: 'value-alone-differs',
  about: 'Up to the value that was wrong, everything went as in passing attempts.',
  find: (scene) => {
    const step = failingStep(scene);
    if (!step || !scene.against || step.value === undefined) return [];
    const slot = scene.against.slots.findIndex(({ members }) => scene.sketch.steps[members[0]!] === step);
    const first = parted(
      scene,
      'step',
      'error',
      'value',
      'input',
      'page',
      'window',
      'in-flight',
      'status',
      'request',
      'console',
      'dialog',
      'matches',
      'latency',
    )[0];
    if (!first || first.slot < slot) return [];
    return [
      {
        at: step.at,
        summary: `Up to ${said(step.label)} everything went as in passing attempts`,
        strength: 0.8,
        evidence: step.events,
      },
    ];
  },
};
