import { quote, said, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { failingStep } from './scene.ts';

/** Shorter words are in many texts by chance. */
const leastWords = 4;

/** What was pressed as the first of several is what the page then speaks of, and not what the test expected. */
export const pressedOfSeveralShown: ClueKind = {
  code: 'pressed-of-several-shown',
  about: 'The page speaks of what was pressed, which was the first of several that match.',
  find: (scene) => {
    const { expected, actual } = scene.failure ?? {};
    const failed = failingStep(scene);
    if (!failed || expected === undefined || !actual) return [];
    const pressed = scene.sketch.steps.findLast(
      ({ at, action, matches = 0, text = '' }) =>
        at < failed.at &&
        action === 'press' &&
        matches > 1 &&
        text.trim().length >= leastWords &&
        actual.includes(text.trim()) &&
        !expected.includes(text.trim()),
    );
    if (!pressed) return [];
    return [
      {
        at: pressed.at,
        until: failed.at,
        summary: `${said(pressed.label)} took the first of ${pressed.matches}; what came speaks of it: ${quote(shorten(actual, 40))}`,
        strength: 1,
        evidence: [...pressed.events, ...failed.events.slice(0, 1)],
      },
    ];
  },
};
