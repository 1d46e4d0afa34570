import { quote, said, shorten } from '../evidence/labels.ts';
import type { SketchStep } from '../contrast/sketch.ts';
import type { Clue, ClueKind } from './clue.ts';
import { ofPassing, sameInPassing, type Scene } from './scene.ts';

/** The locator matched several elements, and the first of them was not the one that passing attempts got. */
export const otherOfSeveral: ClueKind = {
  code: 'other-of-several',
  about: 'The locator matches several elements, and another one of them came first than in passing attempts.',
  find: (scene) =>
    scene.sketch.steps.flatMap((step): Omit<Clue, 'code'>[] => {
      if ((step.matches ?? 0) < 2) return [];
      const others = sameInPassing(scene, step).filter((one) => one.matches !== undefined);
      if (others.length === 0) return [];
      const more = others.filter((one) => one.matches! < step.matches!).length;
      const another = others.filter((one) => one.text !== undefined && one.text !== step.text).length;
      const usual = others[0]!;
      // The text alone may differ for many reasons; that there are more of them is what makes the first another one.
      if (more < others.length * 0.8) return inOtherOrder(scene, step, others);
      return [
        {
          at: step.at,
          summary: `${step.matches} elements matched at ${said(step.label)}, ${ofPassing(more, others.length)} only ${usual.matches}${another ? `; the first reads ${quote(shorten(step.text ?? '', 28))} where it read ${quote(shorten(usual.text ?? '', 28))}` : ''}`,
          strength: step.action === 'find' ? 0.2 : 0.95,
          evidence: step.events,
        },
      ];
    }),
};

/** As many as ever, and what was taken is another one than always; the failed check shows it. */
function inOtherOrder(scene: Scene, step: SketchStep, others: readonly SketchStep[]): Omit<Clue, 'code'>[] {
  const [usual] = others;
  const actual = scene.failure?.actual;
  if (step.action !== 'press' || !step.text || !usual?.text || !actual) return [];
  if (others.some(({ text, matches }) => text !== usual.text || (matches ?? 0) < 2)) return [];
  if (step.text === usual.text || !step.text.includes(actual)) return [];
  return [
    {
      at: step.at,
      summary: `${step.matches} elements matched at ${said(step.label)}; the first read ${quote(shorten(step.text, 28))}, ${ofPassing(others.length, others.length)} ${quote(shorten(usual.text, 28))}`,
      strength: others.length >= 2 ? 0.9 : 0.7,
      evidence: step.events,
    },
  ];
}
