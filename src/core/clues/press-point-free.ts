import { targetName } from '../evidence/labels.ts';
import { nameAt, segmentAt } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { ClueKind } from './clue.ts';

/** Speaks against a covered target: nothing lay over its middle when it was used. */
export const pressPointFree: ClueKind = {
  code: 'press-point-free',
  about: 'Nothing lay over the target when it was used.',
  find: (evidence) => {
    const step = evidence.failing;
    if (step?.data.action !== 'press' || !step.data.locator || step.data.error?.code === 'element click intercepted')
      return [];
    const line = evidence.lifelines.get(locatorKey(step.data.locator));
    const now = line && segmentAt(line, step.at);
    if (!now || now.state.node === null || now.state.coveredBy !== null) return [];
    return [
      {
        at: step.at,
        summary: `Nothing lay over ${targetName(step.data, nameAt(line, step.at))} when it was pressed`,
        strength: 0.8,
        evidence: [step.id, now.event],
      },
    ];
  },
};
