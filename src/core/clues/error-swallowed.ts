import { said } from '../evidence/labels.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Clue, ClueKind } from './clue.ts';
import { sameInPassing, sketched } from './scene.ts';

/** Errors that asking tests meet and expect. */
const expectedWhen = new Set(['find', 'read', 'script', 'dialog']);

/** A command failed and the test went on as if it had not. */
export const errorSwallowed: ClueKind = {
  code: 'error-swallowed',
  about: 'A command failed, and the test went on as if nothing had been.',
  find: (scene) =>
    scene.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      if (!step.data.error || step === scene.failing || scene.insideWait.has(step.id)) return [];
      const after = scene.steps.find((one) => one.at > step.at && !['picture', 'settings'].includes(one.data.action));
      const repeated =
        after?.data.locator && step.data.locator && locatorKey(after.data.locator) === locatorKey(step.data.locator);
      if (!after || repeated) return [];
      const own = sketched(scene, step);
      const others = own ? sameInPassing(scene, own) : [];
      if (others.some((one) => one.error)) return [];
      // A find that fails may be a question; a deed that fails is not, nor a find that passing attempts never miss.
      const asked = expectedWhen.has(step.data.action);
      return [
        {
          at: step.at,
          summary: `${said(step.data.label)} failed with “${step.data.error.code}”, and the test went on`,
          strength: !asked ? 0.95 : scene.passing.length ? 0.9 : 0.55,
          evidence: [step.id, after.id],
        },
      ];
    }),
};
