import { quote, said, shorten } from '../evidence/labels.ts';
import { writtenAt } from '../evidence/documents.ts';
import { lookedAt } from '../evidence/looked-at.ts';
import type { MarkupElement } from '../evidence/markup.ts';
import type { SketchStep } from '../contrast/sketch.ts';
import type { Clue, ClueKind } from './clue.ts';
import { failingStep, type Scene } from './scene.ts';

/** Shorter words are in many texts by chance. */
const leastWords = 4;

/** What was pressed as the first of several is what the page then speaks of, and not what the test expected. */
export const pressedOfSeveralShown: ClueKind = {
  code: 'pressed-of-several-shown',
  about: 'The page speaks of what was pressed, which was the first of several that match.',
  find: (scene) => spokenOf(scene) ?? standingWith(scene) ?? [],
};

function spokenOf(scene: Scene): Omit<Clue, 'code'>[] | undefined {
  const { expected, actual } = scene.failure ?? {};
  const failed = failingStep(scene);
  if (!failed || expected === undefined || !actual) return undefined;
  const pressed = scene.sketch.steps.findLast(
    ({ at, action, matches = 0, text = '' }) =>
      at < failed.at &&
      action === 'press' &&
      matches > 1 &&
      text.trim().length >= leastWords &&
      actual.includes(text.trim()) &&
      !expected.includes(text.trim()),
  );
  if (!pressed) return undefined;
  return [
    {
      at: pressed.at,
      until: failed.at,
      summary: `${said(pressed.label)} took the first of ${pressed.matches}; what came speaks of it: ${quote(shorten(actual, 40))}`,
      strength: 1,
      evidence: [...pressed.events, ...failed.events.slice(0, 1)],
    },
  ];
}

/** What was found stands beside the one that was pressed, what was expected beside another of the same name. */
function standingWith(scene: Scene): Omit<Clue, 'code'>[] | undefined {
  const { markup, failure } = scene;
  const failed = failingStep(scene);
  if (!failed || !markup || !failure?.expected || !failure.actual) return undefined;
  const found = apart(failure.actual, failure.expected);
  const wanted = apart(failure.expected, failure.actual);
  const pressed = scene.sketch.steps.findLast(
    ({ at, action, matches = 0, text }) => at < failed.at && action === 'press' && matches > 1 && text !== undefined,
  );
  const event = pressed && scene.steps.find(({ id }) => pressed.events.includes(id));
  const page = event && writtenAt(scene, lookedAt(scene, event), event.at, markup);
  if (!pressed || !page || !found.length || !wanted.length) return undefined;
  const [used, ...others] = surroundings(page.elements, pressed);
  const beside = (text: string, words: readonly string[]): string | undefined =>
    words.find((word) => text.includes(word));
  const there = others.find((text) => beside(text, wanted) && !beside(text, found));
  if (used === undefined || !there || !beside(used, found) || beside(used, wanted)) return undefined;
  return [
    {
      at: pressed.at,
      until: failed.at,
      summary: `${said(pressed.label)} took the first of ${pressed.matches}, which stands with ${quote(beside(used, found)!)}; another stands with ${quote(beside(there, wanted)!)}`,
      strength: 1,
      evidence: [...pressed.events, page.event, ...failed.events.slice(0, 1)],
    },
  ];
}

/** The words of a text that another has not. */
const apart = (text: string, other: string): string[] =>
  text.split(/[\s.,;:!?]+/).filter((word) => word.length >= leastWords && !other.includes(word));

/** What stands around each element that reads as the one pressed: the text of the nearest that holds more than it. */
function surroundings(elements: readonly MarkupElement[], { text = '' }: SketchStep): string[] {
  const name = text.trim();
  return elements.flatMap((element, i) => {
    if (element.text !== name || elements[i + 1]?.text === name) return [];
    const around = elements.slice(0, i).findLast((one) => one.text.length > name.length && one.text.includes(name));
    return around ? [around.text] : [];
  });
}
