import { arrivedAt, endOf } from '../evidence/event.ts';
import { pathOf, shorten } from '../evidence/labels.ts';
import type { Clue, ClueKind } from './clue.ts';
import { lineOf } from './scene.ts';
import { foundStep, staleSteps } from './stale-steps.ts';

/** A page that renders on data usually does so within a few frames of the answer; 150 ms leaves room for a busy machine. */
const renderWithinMs = 150;

/** The replacement came right after an answer that was still awaited when the element was found. */
export const replacedAfterResponse: ClueKind = {
  code: 'replaced-after-response',
  about: 'A response that was under way when the element was found arrived right before it was replaced.',
  find: (evidence) =>
    staleSteps(evidence).flatMap((step): Omit<Clue, 'code'>[] => {
      const line = lineOf(evidence, step);
      const found = foundStep(evidence, step);
      const change = line?.segments.findLast(
        (s) => (s.kind === 'replaced' || s.kind === 'removed') && s.from <= endOf(step),
      );
      if (!found || !change || change.from < found.at) return [];
      const request = evidence.network
        .filter(
          (r) =>
            r.at <= endOf(found) &&
            arrivedAt(r) > found.at &&
            arrivedAt(r) <= change.from &&
            change.from - arrivedAt(r) <= renderWithinMs,
        )
        .sort((a, b) => endOf(b) - endOf(a))[0];
      if (!request) return [];
      const path = shorten(pathOf(request.data.url).split('?')[0]!, 32);
      return [
        {
          at: arrivedAt(request),
          until: change.from,
          summary: `${path} answered ${Math.round(change.from - arrivedAt(request))} ms before the replacement; it was under way at the find`,
          strength: 0.8,
          evidence: [request.id, change.event, found.id],
        },
      ];
    }),
};
