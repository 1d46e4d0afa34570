import { endOf, unanswered, type StepEvent } from '../evidence/event.ts';
import { pathOf, quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import { actedAt, landingOf } from '../evidence/landing.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { asksForTyped } from './asked-for-typed.ts';
import type { Clue, ClueKind } from './clue.ts';

/**
 * The check that failed shows the very value that was pressed, while what was expected came to the
 * same place later: the press chose from a list that was not yet the right one. Where the recording
 * ended while the page still waited for an answer, what would have come is unknown, and this says less.
 */
export const wrongChoiceKept: ClueKind = {
  code: 'wrong-choice-kept',
  about: 'What was pressed is what the failed check shows; what was expected stood there only later.',
  find: (evidence) => {
    const { failure, failing } = evidence;
    const check = evidence.notes.findLast((note) => note.kind === 'check' && note.data.ok === false);
    // A test that keeps no notes tells its check in what it says at the end.
    const { expected, actual } = check?.data ?? (failure?.kind === 'assertion' ? failure : {});
    const by = check ?? failing;
    if (!by || !expected || !actual) return [];
    return evidence.steps
      .filter((step) => step.data.action === 'press' && step.data.locator && !step.data.error)
      .flatMap((step): Omit<Clue, 'code'>[] => {
        const line = evidence.lifelines.get(locatorKey(step.data.locator!));
        if (!line) return [];
        const at = landingOf(evidence.page, step)?.at ?? step.at;
        // What nobody had looked for before is seen first when the command has found it.
        const pressed = segmentAt(line, at) ?? segmentAt(line, endOf(step));
        const later = line.segments.find((s) => s.from > at && s.state.text?.includes(expected));
        if (!pressed?.state.text?.includes(actual)) return [];
        if (!later) return waitingStill(evidence, step, at, nameAt(line, at), by.id);
        return [
          {
            at,
            until: later.from,
            summary: `${targetName(step.data, nameAt(line, at))} was pressed; ${quote(shorten(expected, 30))} stood there ${Math.max(0, Math.round(later.from - endOf(step)))} ms later`,
            strength: 0.9,
            evidence: [step.id, later.event, by.id],
          },
        ];
      });
  },
};

function waitingStill(
  evidence: Evidence,
  step: StepEvent,
  at: number,
  name: string | undefined,
  check: string,
): Omit<Clue, 'code'>[] {
  const pressed = actedAt(evidence.page, step);
  const asks = asksForTyped(evidence, step);
  const request = evidence.network.find(
    (r) => (r.at < pressed || asks(r)) && r.data.failed === unanswered && r.data.own,
  );
  if (!request) return [];
  return [
    {
      at,
      until: endOf(request),
      summary: `${targetName(step.data, name)} was pressed and its value kept, while ${shorten(pathOf(request.data.url), 32)} was never answered`,
      strength: 0.6,
      evidence: [step.id, request.id, check],
    },
  ];
}
