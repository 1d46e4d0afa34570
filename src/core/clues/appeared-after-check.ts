import { arrivedAt, endOf } from '../evidence/event.ts';
import { locatorText } from '../evidence/locator.ts';
import { duration, quote, shorten } from '../evidence/labels.ts';
import { presenceOf, segmentAt, type LifelineSegment } from '../evidence/lifelines.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { Clue, ClueKind } from './clue.ts';
import { clocksMs, isOrnament, shownWithinMs } from './relevance.ts';
import { leftPage, lineOf } from './scene.ts';

const isAbsent = ({ state }: LifelineSegment): boolean => presenceOf(state) === 'absent';

/**
 * A check was content that something was not there; then the answer to what had been asked for before it came, and with it
 * that very thing. Other acts in between change nothing of that: the page had not spoken yet.
 */
export const appearedAfterCheck: ClueKind = {
  code: 'appeared-after-check',
  about: 'A check had accepted that something was not there; it came with an answer that was under way then.',
  find: (scene) => {
    if (scene.facts.outcome !== 'passed') return [];
    const checked = scene.notes.filter((note) => note.kind === 'check' && note.data.ok !== false);
    return checked.flatMap((check): Omit<Clue, 'code'>[] => {
      const read = scene.steps.findLast((step) => step.data.locator && endOf(step) <= check.at + 1);
      if (read?.data.command !== 'find elements' || read.data.result !== 0 || scene.insideWait.has(read.id)) return [];
      const line = lineOf(scene, read);
      const before = line && segmentAt(line, endOf(read));
      if (!line || (before && !isAbsent(before))) return [];
      const came = line.segments.find((one) => one.from > endOf(read) && !isAbsent(one));
      if (!came || (before && came.context !== before.context)) return [];
      if (leftPage(scene, endOf(read), came.from)) return [];
      const answer = scene.network.findLast(
        (one) =>
          one.data.own &&
          !isOrnament(one.data.type) &&
          one.at <= endOf(read) &&
          arrivedAt(one) > endOf(read) &&
          arrivedAt(one) <= came.from + clocksMs &&
          came.from - arrivedAt(one) <= shownWithinMs,
      );
      if (!answer) return [];
      const name = quote(shorten(locatorText(read.data.locator!), 40));
      const text = came.state.text ? `, ${quote(shorten(came.state.text, 40))}` : '';
      return [
        {
          at: read.at,
          until: came.from,
          summary: `It was accepted that ${name} was not there while ${shorten(requestKey(answer), 60)} was under way; with its answer, ${duration(came.from - endOf(read))} later, it came${text}`,
          strength: 0.95,
          evidence: [read.id, answer.id, came.event, check.id],
        },
      ];
    });
  },
};
