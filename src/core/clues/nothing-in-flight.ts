import { arrivedAt } from '../evidence/event.ts';
import { actedAt } from '../evidence/landing.ts';
import { asksForTyped } from './asked-for-typed.ts';
import type { ClueKind } from './clue.ts';

/** How far before the failing step an early action still counts as its source. */
const actionsBefore = 4;

/** Speaks against acting early: around the last actions no request was under way. */
export const nothingInFlight: ClueKind = {
  code: 'nothing-in-flight',
  about: 'No request was under way during the last actions.',
  find: (evidence) => {
    const failing = evidence.failing;
    if (!failing || evidence.network.length === 0) return [];
    const acts = evidence.steps
      .filter((s) => s.at <= failing.at && (s.data.action === 'press' || s.data.action === 'type'))
      .slice(-actionsBefore);
    if (acts.length === 0) return [];
    // What was asked for while the press was being prepared was under way when it came; what had been typed was to be asked for.
    const busy = acts.some((act) => {
      const at = actedAt(evidence.page, act);
      const asks = act.data.action === 'press' ? asksForTyped(evidence, act) : () => false;
      return evidence.network.some((r) => (r.at < at || asks(r)) && arrivedAt(r) > at);
    });
    if (busy) return [];
    return [
      {
        at: acts.at(-1)!.at,
        summary: `No request was under way at any of the last ${acts.length} actions`,
        strength: 0.7,
        evidence: acts.map((act) => act.id),
      },
    ];
  },
};
