import { said } from '../evidence/labels.ts';
import { sketched } from '../clues/scene.ts';
import { locatorKey } from '../evidence/locator.ts';
import { sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** Fewer than this were meant one by one. */
const fewest = 2;

/** Each of a list was looked at, and nothing checks that there are any: with none, the test passes and has checked nothing. */
export const listMayBeEmpty: RiskFinder = {
  kind: 'list-may-be-empty',
  about: 'Every one of a list was looked at, and nothing checks that there are any.',
  find: (scene) =>
    scene.steps.flatMap((list): Omit<Risk, 'kind'>[] => {
      const { command, result, locator, label, error } = list.data;
      if (command !== 'find elements' || error || !locator || scene.insideWait.has(list.id)) return [];
      const count = typeof result === 'number' ? result : 0;
      if (count < fewest) return [];
      const read = new Set(
        scene.steps
          .filter(({ data }) => data.foundBy === list.id && data.action !== 'press' && data.action !== 'type')
          .map(({ data }) => data.element),
      );
      const drawn = sketched(scene, list);
      // A wait for one of them before says that there is at least one.
      const key = locatorKey(locator);
      const waited = scene.waits.some(
        ({ kind, at, data }) => kind === 'wait' && at < list.at && data.locator && locatorKey(data.locator) === key,
      );
      if (!drawn || read.size < count || waited) return [];
      return [
        {
          key: drawn.sig,
          step: label,
          ...sourceOf(scene, drawn),
          at: list.at,
          summary: `Each of the ${count} of ${said(label)} was looked at, and nothing says that there are any: with none, nothing would have been checked`,
          change: `Check that there are as many as there should be before looking at each`,
          strength: 1,
          evidence: [list.id],
        },
      ];
    }),
};
