import { said } from '../evidence/labels.ts';
import { endOf } from '../evidence/event.ts';
import type { Clue, ClueKind } from './clue.ts';
import { ofPassing, sameInPassing, sketched } from './scene.ts';

/**
 * All elements of a kind were asked for, there were none, and the test passed: whatever it would have
 * checked of each, it checked of none. Told where passing attempts do find some, or where they came
 * later, or where no check was told after it.
 */
export const nothingChecked: ClueKind = {
  code: 'nothing-checked',
  about: 'A check went through a list that was empty, or ran zero times.',
  find: (scene) => {
    if (scene.facts.outcome !== 'passed') return [];
    return scene.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      const many = step.data.command === 'find elements' && step.data.result === 0;
      if (!many || scene.insideWait.has(step.id)) return [];
      const own = sketched(scene, step);
      const counts = own
        ? sameInPassing(scene, own).flatMap((one) => (one.value === undefined ? [] : [Number(one.value)]))
        : [];
      const some = counts.filter((count) => count > 0).length;
      const later = scene.sketch.steps.some((one) => one.at > endOf(step) && one.action !== 'find');
      const checks = scene.sketch.checks.filter((check) => check.at > step.at).length;
      const usual = scene.passing.map((one) => one.checks.length);
      const fewer =
        usual.length > 0 && usual.filter((count) => count > scene.sketch.checks.length).length >= usual.length * 0.5;
      if (counts.length ? some < counts.length * 0.5 : later || checks > 0) return [];
      return [
        {
          at: step.at,
          summary: `${said(step.data.label)} found none${some ? `; ${ofPassing(some, counts.length)} it found some` : ''}, and nothing was checked of them`,
          strength: some && fewer ? 1 : some ? 0.95 : 0.85,
          evidence: [step.id],
        },
      ];
    });
  },
};
