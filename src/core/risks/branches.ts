import { sketched, type Scene } from '../clues/scene.ts';
import { deeds } from '../clues/deeds.ts';
import { said } from '../evidence/labels.ts';
import { sourceOf } from './ground.ts';
import type { Risk, RiskFinder } from './risk.ts';

/** What is done in some of so many attempts and not in others is told from so many on. */
const fewest = 2;

/** A step is done in some passing attempts and left out in others: what the test does hangs on what it sees at one moment. */
export const stepSometimes: RiskFinder = {
  kind: 'step-sometimes',
  about: 'A step is done in some passing attempts and left out in others.',
  find: (scene) => {
    const { against, passing, sketch } = scene;
    if (!against || passing.length < fewest) return [];
    const all = [sketch, ...passing];
    return against.slots.flatMap((slot): Omit<Risk, 'kind'>[] => {
      const did = slot.members.filter((member) => member >= 0).length;
      if (did === 0 || did === all.length) return [];
      const who = slot.members.findIndex((member) => member >= 0);
      const step = all[who]!.steps[slot.members[who]!]!;
      // Of a step that one attempt alone lacks or has, the line-up itself may be in doubt.
      if (!deeds.test(step.sig) || step.action === 'script' || dataOf(step.sig)) return [];
      const own = slot.members[0]! >= 0 ? sketch.steps[slot.members[0]!] : undefined;
      const near = own ?? nearest(scene, against.slots, slot);
      if (!near) return [];
      return [
        {
          key: step.sig,
          step: step.label,
          ...sourceOf(scene, near),
          at: near.at,
          summary: `${said(step.label)} was done in ${did} of ${all.length} passing attempts: the test decides by what it sees at that moment`,
          change: `Wait until it is known whether ${said(step.label)} is needed, or make the page need it always`,
          strength: 1,
          evidence: near.events.slice(0, 1),
        },
      ];
    });
  },
};

/** A locator or address that holds data of the attempt: another one is another text, not another step. */
const dataOf = (sig: string): boolean => /\d{3,}/.test(sig);

function nearest({ sketch }: Scene, slots: NonNullable<Scene['against']>['slots'], slot: (typeof slots)[number]) {
  for (let i = slots.indexOf(slot) - 1; i >= 0; i--) {
    const member = slots[i]!.members[0]!;
    if (member >= 0) return sketch.steps[member];
  }
  return sketch.steps[0];
}

/** The test looked once whether something is there, it was not, and the test went on without it. */
export const lookedOnce: RiskFinder = {
  kind: 'looked-once',
  about: 'The test looked once whether something is there, and went on without it.',
  find: (scene) =>
    scene.steps.flatMap((look): Omit<Risk, 'kind'>[] => {
      const { command, error, result, label } = look.data;
      if (scene.insideWait.has(look.id)) return [];
      const none =
        command === 'find elements' ? result === 0 : command === 'find element' && error?.code === 'no such element';
      const step = none ? sketched(scene, look) : undefined;
      if (!step || !scene.sketch.steps.some(({ at }) => at > look.at)) return [];
      return [
        {
          key: step.sig,
          step: label,
          ...sourceOf(scene, step),
          at: look.at,
          summary: `${said(label)} found nothing at its one look, and the test went on without it`,
          change: `Wait until the page has decided whether it is there, then look`,
          strength: 1,
          evidence: [look.id],
        },
      ];
    }),
};
