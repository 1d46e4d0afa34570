import type { Decision, Pin } from './decision.ts';

/** Something a person pinned: to a hypothesis, for or against it, or by itself as a note with its moment. */
export interface Pinned extends Pin {
  /** The decision that pinned it, which takes it off again. */
  id: number;
  at: number;
  /** What it shows, in the words of whoever pinned it. */
  text: string;
}

/** A cause in somebody's own words, held against evidence like the named ones. */
export interface Hypothesis {
  /** The decision that set it up. */
  id: number;
  text: string;
  state: 'standing' | 'confirmed' | 'struck out';
  /** Why it was struck out. */
  reason: string;
  for: Pinned[];
  against: Pinned[];
}

/** What people set up by hand and pinned. */
export interface ByHand {
  hypotheses: Hypothesis[];
  moments: Pinned[];
}

/** Applies a decision about hypotheses and pins; one about something that is not there changes nothing. */
export function applyByHand(byHand: ByHand, { id, kind, text, at, about, pin }: Decision): void {
  const { hypotheses, moments } = byHand;
  const meant = hypotheses.find((one) => one.id === about);
  const pinned: Pinned = { ...pin, id, at, text };
  switch (kind) {
    case 'suppose':
      if (text) hypotheses.push({ id, text, state: 'standing', reason: '', for: [], against: [] });
      return;
    case 'speaks-for':
      meant?.for.push(pinned);
      return;
    case 'speaks-against':
      meant?.against.push(pinned);
      return;
    case 'strike':
      if (meant) [meant.state, meant.reason] = ['struck out', text];
      return;
    case 'restore':
      if (meant) [meant.state, meant.reason] = ['standing', ''];
      return;
    case 'moment':
      moments.push(pinned);
      return;
    case 'unpin':
      byHand.moments = moments.filter((one) => one.id !== about);
      for (const one of hypotheses) {
        one.for = one.for.filter((entry) => entry.id !== about);
        one.against = one.against.filter((entry) => entry.id !== about);
      }
  }
}

/** There is one cause: the hypothesis that it now is stands confirmed, and no other does. */
export function confirmByHand({ hypotheses }: ByHand, id: number | null): void {
  for (const one of hypotheses) {
    if (one.id === id) [one.state, one.reason] = ['confirmed', ''];
    else if (one.state === 'confirmed') one.state = 'standing';
  }
}
