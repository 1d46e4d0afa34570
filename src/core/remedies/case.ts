import type { Suspect } from '../causes/score.ts';
import type { Clue } from '../clues/clue.ts';
import { ofPassing } from '../clues/scene.ts';
import { lineUp, typical, type Slot } from '../contrast/line-up.ts';
import type { SketchStep } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { momentAt, type Moment, type Shown, type Told } from './told.ts';

/** What an adviser is given: one suspect of one failing attempt, and the attempts to learn from. */
export interface Case {
  subject: Told;
  suspect: Suspect;
  /** The clues that speak for the suspect, the strongest first. */
  clues: readonly Clue[];
  /** Other attempts that failed the same way, and those of the same test that passed. */
  failing: readonly Told[];
  passing: readonly Told[];
  slots: readonly Slot[];
  /** The step it went wrong at: the one the clues speak of, else the one it failed at. */
  step?: SketchStep;
  /** Written-out document of a blob, where it is at hand. */
  markup: (blob: string) => string | undefined;
}

/** Lines the attempts up: the subject first, then the failing, then the passing ones. */
export function placesOf(subject: Told, failing: readonly Told[], passing: readonly Told[]): Slot[] {
  const all = [subject, ...failing, ...passing].map(({ sketch }) => sketch);
  const spine = passing.length ? 1 + failing.length + typical(passing.map(({ sketch }) => sketch)) : 0;
  return lineUp(all, spine);
}

/** The step the clues speak of: the first of their events that is a step, of the strongest clue that has one. */
export function stepOf(
  { evidence, sketch }: Told,
  clues: readonly Clue[],
  failing = evidence.failing?.id,
): SketchStep | undefined {
  for (const id of [...clues.flatMap((clue) => clue.evidence), ...(failing === undefined ? [] : [failing])]) {
    const whole = evidence.insideWait.get(id) ?? id;
    const step = sketch.steps.find(({ events }) => events.includes(whole));
    if (step) return step;
  }
  return undefined;
}

/** The same step in the passing, or in the other failing, attempts. */
export function sameStep(
  { subject, failing, passing, slots }: Case,
  step: SketchStep,
  side: 'passing' | 'failing',
  early = false,
): Moment[] {
  const index = subject.sketch.steps.indexOf(step);
  const slot = slots.find(({ members }) => members[0] === index);
  if (!slot) return [];
  const from = side === 'failing' ? 1 : 1 + failing.length;
  return (side === 'failing' ? failing : passing).flatMap((told, i) => {
    const member = told.sketch.steps[slot.members[from + i]!];
    return member ? [momentAt(told, member, early)] : [];
  });
}

export const shownAt = ({ id }: Told, event: Pick<EvidenceEvent, 'id' | 'at'>): Shown => ({
  attempt: id,
  event: event.id,
  at: event.at,
});

export const shownStep = ({ told, step, at }: Moment): Shown => ({ attempt: told.id, event: step.events[0]!, at });

/** "in 26 of 26 passing attempts", or in the one there is. */
export const inPassing = ([hits, of]: readonly [number, number]): string => ofPassing(hits, of);
