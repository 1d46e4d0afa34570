import { quote, shorten } from '../evidence/labels.ts';
import type { ClueKind } from './clue.ts';
import { pageMessages } from './page-messages.ts';
import { momentOf } from './scene.ts';

/** How pages say that something has to be done first. */
const asks =
  /\b(?:please (?:accept|add|agree|answer|choose|complete|confirm|enter|fill|give|mark|pick|provide|read|select|set|sign|specify|tick|type|upload)|(?:accept|add|agree|answer|choose|confirm|enter|mark|pick|select|set|sign in|specify|tick)\b.{0,60}\bfirst\b|(?:choose|pick|select) (?:a|an|at least|one|your)\b|(?:is|are) (?:required|missing)|required field|must be (?:accepted|chosen|given|marked|picked|selected|set|ticked)|has to be (?:chosen|given|marked|picked|selected|set))/i;

/** The page answered what was done with what it lacks. */
export const pageAsks: ClueKind = {
  code: 'page-asks',
  about: 'The page answered the last act by asking for something that the test had not done.',
  find: (scene) => {
    const moment = momentOf(scene);
    const asked = moment && pageMessages(scene).find(({ text }) => asks.test(text));
    return asked
      ? [
          {
            ...moment,
            summary: `The page asked for something first: ${quote(shorten(asked.text, 60))}`,
            strength: 0.9,
            evidence: [...moment.evidence, asked.event],
          },
        ]
      : [];
  },
};
