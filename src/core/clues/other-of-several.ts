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
  const order = step.action === 'press' && actual ? readInOtherOrder(scene, step) : undefined;
  if (order)
    return [
      {
        at: step.at,
        summary: `${step.matches} elements matched at ${said(step.label)}, and they stood in another order: ${order}`,
        strength: 0.95,
        evidence: step.events,
      },
    ];
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

/** By so many characters the beginnings of two texts are told apart. */
const beginning = 12;

/** What was read of the page before the press began otherwise than always, with the same things in it. */
function readInOtherOrder(scene: Scene, press: SketchStep): string | undefined {
  const before = scene.sketch.steps.filter(({ at, action }) => at < press.at && action === 'read');
  for (const step of before.reverse()) {
    const others = sameInPassing(scene, step).flatMap(({ value }) => value ?? []);
    const [mine, usual] = [step.value ?? '', others[0] ?? ''];
    if (others.length === 0 || mine.length < beginning * 2 || step.page !== press.page) continue;
    const [first, firstThere] = [mine.slice(0, beginning), usual.slice(0, beginning)];
    const moved = others.every((value) => !value.startsWith(first) && value.includes(first));
    if (moved && mine.includes(firstThere))
      return `${quote(`${first}…`)} came first where ${quote(`${firstThere}…`)} does ${ofPassing(others.length, others.length)}`;
  }
  return undefined;
}
