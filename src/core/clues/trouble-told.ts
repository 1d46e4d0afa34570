import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { pageSaid } from './page-said.ts';

/** How applications say that something of theirs failed, and that it is not the user’s doing. */
const trouble =
  /\b(?:(?:something|it) went wrong|unavailable|not available|(?:un)?expected error|internal error|server error|service error|out of service|(?:try|come back) (?:again )?later|could not be (?:loaded|reached|saved|fetched)|failed to (?:load|fetch|save)|no connection|offline|error \d{3}|bad gateway|gateway time-?out)\b/i;

/** The page said that something of the application’s own had failed. */
export const troubleTold: ClueKind = {
  code: 'trouble-told',
  about: 'The page said that something had failed and is not to be had.',
  find: (scene) => {
    const said = pageSaid(scene, trouble);
    return said ? [{ ...said.moment, summary: `The page said ${quote(shorten(said.text, 52))}`, strength: 0.85 }] : [];
  },
};
