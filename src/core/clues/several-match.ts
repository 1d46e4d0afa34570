import { said } from '../evidence/labels.ts';
import type { SketchStep } from '../contrast/sketch.ts';
import type { Clue, ClueKind } from './clue.ts';
import { failingStep, type Scene } from './scene.ts';

/** One was asked for and used where several match: the first is taken, whichever that is. */
export const severalMatch: ClueKind = {
  code: 'several-match',
  about: 'One element was used where the locator matches several.',
  find: (scene) => {
    const decisive = lastBeforeWrongValue(scene);
    return scene.sketch.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      if (!['press', 'type', 'read'].includes(step.action) || (step.matches ?? 0) < 2) return [];
      return [
        {
          at: step.at,
          summary: `${step.matches} elements match where ${said(step.label)} used the first`,
          strength: step.action === 'read' ? 0.5 : step === decisive || missed(scene, step) ? 1 : 0.7,
          evidence: step.events,
        },
      ];
    });
  },
};

/** What was typed belongs to what was expected, and is not in what was found. */
function missed({ failure }: Scene, { input }: SketchStep): boolean {
  const { expected = '', actual } = failure ?? {};
  return !!input && actual !== undefined && expected.includes(input) && !actual.includes(input);
}

/** The last press before a check that found another value: what it took decides what is shown. */
function lastBeforeWrongValue(scene: Scene): SketchStep | undefined {
  const failed = failingStep(scene);
  if (!failed || scene.failure?.kind !== 'assertion' || !scene.failure.actual) return undefined;
  return scene.sketch.steps.findLast(({ at, action }) => at < failed.at && (action === 'press' || action === 'keys'));
}
