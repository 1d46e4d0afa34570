import { said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing, sameInPassing } from './scene.ts';

/** It failed on a page that passing attempts had left by then: they too had been on it, a step before. */
export const stillOnPageBefore: ClueKind = {
  code: 'still-on-page-before',
  about: 'Passing attempts were on another page by then; this one was still on the page before it.',
  find: (scene) => {
    const step = failingStep(scene);
    if (!step?.page) return [];
    const others = sameInPassing(scene, step).filter((one) => one.page !== undefined);
    const moved = others.filter((one) => one.page !== step.page);
    if (others.length === 0 || moved.length < others.length * 0.8) return [];
    const index = scene.sketch.steps.indexOf(step);
    // Of the ones before, this page was either asked for by the test or met on the way.
    const before = scene.sketch.steps.slice(0, index).some((one) => one.page === step.page);
    const known = scene.passing.some((one) => one.steps.some((other) => other.page === step.page));
    const between =
      !before && scene.page.filter((one) => one.kind === 'navigation-committed').length > 1 && !step.error;
    if (!(before && known) && !between) return [];
    const pages = moved[0]!.page!;
    return [
      {
        at: step.at,
        summary: `${said(step.label)} was done on ${step.page}; ${ofPassing(moved.length, others.length)} it was done on ${pages}`,
        strength: before ? 0.95 : 0.6,
        evidence: step.events,
      },
    ];
  },
};
