import { endOf } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { ClueKind } from './clue.ts';
import { foundStep } from './stale-steps.ts';

/** Speaks against a replacement: the node that was found is the node that was used. */
export const targetKeptIdentity: ClueKind = {
  code: 'target-kept-identity',
  about: 'The element found and the element used are one and the same.',
  find: (evidence) => {
    const step = evidence.failing;
    if (!step?.data.locator || step.data.action === 'find') return [];
    const line = evidence.lifelines.get(locatorKey(step.data.locator));
    const found = foundStep(evidence, step);
    const then = line && found && segmentAt(line, endOf(found));
    const now = line && segmentAt(line, endOf(step));
    if (!then || !now || then.state.node === null || then.state.node !== now.state.node) return [];
    return [
      {
        at: step.at,
        summary: `${targetName(step.data, nameAt(line, step.at))} was the same element when found and when used`,
        strength: 0.9,
        evidence: [step.id, now.event, found!.id],
      },
    ];
  },
};
