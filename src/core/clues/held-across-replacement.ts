import { endOf, type StepEvent } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { nameAt } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { lineOf } from './scene.ts';
import { foundStep, staleSteps } from './stale-steps.ts';

/**
 * An element was found, then its place in the page was taken by another node (or by none), and the
 * test used the old one. Needs the lifeline of the locator; without it this clue cannot tell and
 * leaves the field to `stale-reference-told`.
 */
export const heldAcrossReplacement: ClueKind = {
  code: 'held-across-replacement',
  about: 'The element was found before it was replaced or removed, and used after.',
  find: (evidence) =>
    staleSteps(evidence).flatMap((step): Omit<Clue, 'code'>[] => {
      const line = lineOf(evidence, step);
      const found = foundStep(evidence, step);
      if (!line || !found) return [];
      const change = line.segments.findLast(
        (segment) =>
          (segment.kind === 'replaced' || segment.kind === 'removed') &&
          segment.from >= found.at &&
          segment.from <= endOf(step),
      );
      if (!change) return [];
      const gap = Math.max(0, step.at - change.from);
      const verb = change.kind === 'replaced' ? 'was replaced' : 'was removed';
      const when = change.from > step.at ? 'while it was being used' : `${Math.round(gap)} ms before the ${deed(step)}`;
      return [
        {
          at: change.from,
          until: endOf(step),
          summary: `${targetName(step.data, nameAt(line, step.at))} ${verb} ${when}`,
          strength: 1,
          evidence: [change.event, step.id, found.id],
        },
      ];
    }),
};

const deed = (step: StepEvent): string =>
  step.data.action === 'press' ? 'press' : step.data.action === 'type' ? 'typing' : 'use';
