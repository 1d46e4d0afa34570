import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { pageSaid } from './page-said.ts';

/** How applications say that what they were given will not do. */
const refusal =
  /\b(?:not valid|invalid|not allowed|not accepted|not permitted|not recogni[sz]ed|too (?:long|short|many|large|small|few)|must (?:be|have|contain)|at (?:most|least) \d+|only (?:letters|digits|numbers)|unknown \w+|wrong (?:format|number|code)|cannot be (?:used|booked|read)|please (?:enter|check|correct|telephone|call))\b/i;

/** The application refused what it was given. */
export const refusalTold: ClueKind = {
  code: 'refusal-told',
  about: 'The application said that what it was given is not valid or not allowed.',
  find: (scene) => {
    const said = pageSaid(scene, refusal);
    return said
      ? [{ ...said.moment, summary: `The application refused: ${quote(shorten(said.text, 52))}`, strength: 0.85 }]
      : [];
  },
};
