import { endOf } from '../evidence/event.ts';
import { said } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep, ofPassing, sameInPassing, type Scene } from './scene.ts';

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
    const way = !before || isOnTheWay(scene, step.at);
    return [
      {
        at: step.at,
        summary: `${said(step.label)} was done on ${step.page}; ${ofPassing(moved.length, others.length)} it was done on ${pages}`,
        strength: (before ? 0.95 : 0.6) * (way ? 1 : stillWorth),
        evidence: step.events,
      },
    ];
  },
};

/** What it is worth that a page was not left, where nothing shows that anybody was about to: whatever fails keeps a test where it is. */
const stillWorth = 0.35;
/** A page that comes within this of the failing step was on its way then, ms. */
const soonMs = 1500;

function isOnTheWay({ page, network, until }: Scene, at: number): boolean {
  return (
    page.some(
      ({ kind, at: when }) => kind.startsWith('navigation') && when > at && when <= Math.min(until, at + soonMs),
    ) ||
    network.some((one) => one.data.type === 'document' && one.at < at && endOf(one) > at) ||
    network.some((one) => one.data.own && one.data.method !== 'GET' && one.at < at && endOf(one) > at)
  );
}
