import type { CauseCode } from '../causes/cause.ts';

/** What a person can decide about a family; every decision can be taken back, the newest first. */
export const decisionKinds = [
  'confirm',
  'clear',
  'stand',
  'note',
  'own',
  'owner',
  'state',
  'link',
  'unlink',
  'suppose',
  'speaks-for',
  'speaks-against',
  'strike',
  'restore',
  'moment',
  'unpin',
] as const;
export type DecisionKind = (typeof decisionKinds)[number];

/** What a decision points at: a moment of an attempt, what stands there, or a series of trials. */
export interface Pin {
  attempt?: string;
  /** In the attempt's time, ms. */
  moment?: number;
  event?: string;
  /** What the event was called when it was pinned. */
  what?: string;
  series?: string;
}

export interface Decision {
  id: number;
  familyId: string;
  at: number;
  kind: DecisionKind;
  cause: CauseCode | null;
  /** The reason, the note, the cause in own words, the owner, the state, the address. */
  text: string;
  /** Until when a quarantine lasts, epoch ms. */
  until: number | null;
  /** The hypothesis it is about, or what it takes off again: the id of the decision that made it. */
  about: number | null;
  pin: Pin | null;
}
