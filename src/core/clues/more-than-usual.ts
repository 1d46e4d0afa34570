import { quote, said, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { failingStep, momentOf, ofPassing, sameInPassing, type Scene } from './scene.ts';

/** Something stood there that the test had not made: a list that holds what it should and more besides, a count that is too high. */
export const moreThanUsual: ClueKind = {
  code: 'more-than-usual',
  about: 'There was more than in passing attempts, as if something had been left over.',
  find: (scene) => {
    const found = scene.sketch.steps.find((step) => {
      const text = step.value ?? step.text;
      const others = sameInPassing(scene, step).flatMap((one) => one.value ?? one.text ?? []);
      return text !== undefined && others.length > 0 && new Set(others).size === 1 && holdsMore(text, others[0]!);
    });
    if (found) {
      const others = sameInPassing(scene, found).flatMap((one) => one.value ?? one.text ?? []);
      return [
        {
          at: found.at,
          summary: `${quote(found.label)} gave ${quote(shorten(found.value ?? found.text!, 36))}, more than the ${quote(shorten(others[0]!, 28))} ${ofPassing(others.length, others.length)}`,
          strength: 0.9,
          evidence: found.events,
        },
      ];
    }
    const counted = moreFound(scene);
    if (counted) return [counted];
    const { failure } = scene;
    const moment = momentOf(scene);
    const [was, wanted] = [countIn(failure?.actual), countIn(failure?.expected)];
    if (!moment || was === undefined || wanted === undefined || was <= wanted || was - wanted > 3) return [];
    return [
      {
        at: moment.at,
        summary: `It counted ${was} where ${wanted} was expected`,
        strength: 0.6,
        evidence: moment.evidence,
      },
    ];
  },
};

/** True when a text is another one's words with more words before or between them. */
function holdsMore(text: string, usual: string): boolean {
  if (usual.trim().length < 3 || text.length <= usual.length + 2) return false;
  return text.endsWith(usual) || text.includes(`\n${usual}`) || text.includes(` ${usual}`);
}

/** The number in a text that counts something: "2 tickets". */
function countIn(text: string | undefined): number | undefined {
  const found = /^\s*(\d{1,4})\s+\p{L}/u.exec(text ?? '');
  return found ? Number(found[1]) : undefined;
}

/** The failing step found more elements than it does in any passing attempt, which all find the same number. */
function moreFound(scene: Scene): Omit<Clue, 'code'> | undefined {
  const step = failingStep(scene);
  if (!step || step.value === undefined || !/^\d+$/.test(step.value)) return undefined;
  const others = new Set(sameInPassing(scene, step).flatMap(({ value }) => value ?? []));
  const [usual] = others;
  if (others.size !== 1 || !/^\d+$/.test(usual!) || Number(step.value) <= Number(usual)) return undefined;
  const count = sameInPassing(scene, step).length;
  return {
    at: step.at,
    summary: `${said(step.label)} found ${step.value}, ${ofPassing(count, count)} ${usual}`,
    strength: 0.85,
    evidence: step.events,
  };
}
