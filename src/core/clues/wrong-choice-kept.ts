import { endOf } from '../evidence/event.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Clue, ClueKind } from './clue.ts';

/**
 * The check that failed shows the very value that was pressed, while what was expected came to the
 * same place later: the press chose from a list that was not yet the right one.
 */
export const wrongChoiceKept: ClueKind = {
  code: 'wrong-choice-kept',
  about: 'What was pressed is what the failed check shows; what was expected stood there only later.',
  find: (evidence) => {
    const check = evidence.notes.findLast((note) => note.kind === 'check' && note.data.ok === false);
    const expected = check?.data.expected;
    const actual = check?.data.actual;
    if (!check || !expected || !actual) return [];
    return evidence.steps
      .filter((step) => step.data.action === 'press' && step.data.locator && !step.data.error)
      .flatMap((step): Omit<Clue, 'code'>[] => {
        const line = evidence.lifelines.get(locatorKey(step.data.locator!));
        if (!line) return [];
        const pressed = segmentAt(line, step.at);
        const later = line.segments.find((s) => s.from > step.at && s.state.text?.includes(expected));
        if (!pressed?.state.text?.includes(actual) || !later) return [];
        return [
          {
            at: step.at,
            until: later.from,
            summary: `${targetName(step.data, nameAt(line, step.at))} was pressed; ${quote(shorten(expected, 30))} stood there ${Math.round(later.from - endOf(step))} ms later`,
            strength: 0.9,
            evidence: [step.id, later.event, check.id],
          },
        ];
      });
  },
};
