import type { CauseCode } from '../causes/cause.ts';
import type { Decision } from './decision.ts';
import { applyByHand, confirmByHand, type ByHand } from './hypotheses.ts';

/** Where the work on a family stands. */
export const familyStates = ['open', 'being mended', 'mended', 'will not mend', 'quarantined'] as const;
export type FamilyState = (typeof familyStates)[number];

/** What the decisions that are not undone say. */
export interface Verdict extends ByHand {
  confirmed: CauseCode | null;
  /** A cause in one's own words, where none of the named ones is it. */
  ownCause: string | null;
  cleared: { cause: CauseCode; reason: string }[];
  note: string;
  owner: string;
  state: FamilyState;
  /** When the state was set; null while nobody did. */
  since: number | null;
  /** Until when it is quarantined. */
  until: number | null;
  /** It was seen again after it was called mended: the first time of that. */
  cameBack: { at: number; attempt: string; run: string; runId: string; commit: string | null } | null;
  links: string[];
  /** The newest decision, which undo takes back. */
  last: Decision | null;
}

/** The verdict that decisions come to. @param decisions those not taken back, in their order */
export function verdictOf(decisions: readonly Decision[]): Verdict {
  const verdict: Verdict = {
    confirmed: null,
    ownCause: null,
    cleared: [],
    note: '',
    owner: '',
    state: 'open',
    since: null,
    until: null,
    cameBack: null,
    links: [],
    hypotheses: [],
    moments: [],
    last: decisions.at(-1) ?? null,
  };
  for (const one of decisions) apply(verdict, one);
  return verdict;
}

function apply(verdict: Verdict, decision: Decision): void {
  const { kind, cause, text, at, until, about } = decision;
  switch (kind) {
    case 'note':
      verdict.note = text;
      return;
    case 'own':
      // There is one cause: the newest word on it holds.
      verdict.ownCause = verdict.hypotheses.find(({ id }) => id === about)?.text ?? (text || null);
      if (verdict.ownCause) verdict.confirmed = null;
      confirmByHand(verdict, about);
      return;
    case 'owner':
      verdict.owner = text;
      return;
    case 'state':
      verdict.state = familyStates.find((state) => state === text) ?? 'open';
      verdict.since = at;
      verdict.until = until;
      return;
    case 'link':
      if (!verdict.links.includes(text)) verdict.links.push(text);
      return;
    case 'unlink':
      verdict.links = verdict.links.filter((link) => link !== text);
      return;
    case 'confirm':
    case 'clear':
    case 'stand':
      if (!cause) return;
      verdict.cleared = verdict.cleared.filter((entry) => entry.cause !== cause);
      if (verdict.confirmed === cause) verdict.confirmed = null;
      if (kind === 'confirm') {
        [verdict.confirmed, verdict.ownCause] = [cause, null];
        confirmByHand(verdict, null);
      }
      if (kind === 'clear') verdict.cleared.push({ cause, reason: text });
      return;
    case 'strike':
    case 'restore':
      // What is no longer held to be so is not the cause either.
      if (verdict.hypotheses.some(({ id, state }) => id === about && state === 'confirmed')) verdict.ownCause = null;
  }
  applyByHand(verdict, decision);
}

/** Whether somebody has to look: no cause is known yet, it came back, or its quarantine is over. */
export function awaitsVerdict({ confirmed, ownCause, state, until, cameBack }: Verdict, now: number): boolean {
  if (cameBack) return true;
  if (state === 'quarantined') return until !== null && until < now;
  return confirmed === null && ownCause === null && state !== 'mended' && state !== 'will not mend';
}
