import { pathOf, quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { pageSaid } from './page-said.ts';
import { momentOf } from './scene.ts';

/** How applications say that somebody was there before. */
const before =
  /\b(already|taken|in use|exists|duplicate|used up|not unique|conflict|held by|locked by|someone else|another (?:user|booking|session))\b/i;

/** The application said that somebody, or an earlier attempt, had been there first. */
export const conflictTold: ClueKind = {
  code: 'conflict-told',
  about: 'The application said that something exists, is taken or is in use already.',
  find: (scene) => {
    const moment = momentOf(scene);
    if (!moment) return [];
    const answer = scene.network.findLast((one) => one.data.own && one.data.status === 409 && one.at <= moment.at);
    const words = pageSaid(scene, before)?.text;
    if (!answer && !words) return [];
    return [
      {
        at: answer?.at ?? moment.at,
        summary: words
          ? `It said ${quote(shorten(words, 52))}${answer ? `, after ${shorten(pathOf(answer.data.url), 28)} answered 409, conflict` : ''}`
          : `${shorten(pathOf(answer!.data.url), 32)} answered 409, conflict`,
        strength: answer && words ? 1 : 0.85,
        evidence: [...moment.evidence, ...(answer ? [answer.id] : [])],
      },
    ];
  },
};
