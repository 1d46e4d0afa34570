import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { momentOf } from './scene.ts';

/** How applications say that something of theirs failed, and that it is not the user’s doing. */
const trouble =
  /\b(?:(?:something|it) went wrong|unavailable|not available|(?:un)?expected error|internal error|server error|service error|out of service|(?:try|come back) (?:again )?later|could not be (?:loaded|reached|saved|fetched)|failed to (?:load|fetch|save)|no connection|offline|error \d{3}|bad gateway|gateway time-?out)\b/i;

/** The page said that something of the application’s own had failed. */
export const troubleTold: ClueKind = {
  code: 'trouble-told',
  about: 'The page said that something had failed and is not to be had.',
  find: (scene) => {
    const { expected = '', actual = '' } = scene.failure ?? {};
    const moment = momentOf(scene);
    if (!moment || !trouble.test(actual) || trouble.test(expected)) return [];
    return [{ ...moment, summary: `The page said ${quote(shorten(actual, 52))}`, strength: 0.85 }];
  },
};
