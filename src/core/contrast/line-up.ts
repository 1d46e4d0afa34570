import { align } from './align.ts';
import type { Sketch, SketchStep } from './sketch.ts';

/** One place in the order of things done, with the step that each attempt did there. */
export interface Slot {
  sig: string;
  label: string;
  /** By attempt, in the order given: index of its step, or -1 where it did nothing like it. */
  members: Int32Array;
}

const equal = (a: SketchStep, b: SketchStep): boolean => a.sig === b.sig;

/** The same thing done is worth most; another thing done to the same element still something. */
const likeness = (a: SketchStep, b: SketchStep): number | undefined =>
  a.sig === b.sig ? 2 : a.locator !== undefined && a.locator === b.locator ? 0.5 : undefined;

/**
 * Lines many attempts up: every attempt is aligned with one that stands for all, and what only others
 * did becomes a place of its own, between the places it was done.
 * @param attempts those to line up @param spine index of the one that stands for all
 */
export function lineUp(attempts: readonly Sketch[], spine: number): Slot[] {
  const base = attempts[spine]!.steps;
  const slots: Slot[] = base.map((step) => ({ sig: step.sig, label: labelOf(step), members: none(attempts.length) }));
  base.forEach((_, i) => (slots[i]!.members[spine] = i));
  /** Places that the spine has not, by the spine's place they come before. */
  const between = new Map<number, Slot[]>();
  attempts.forEach((attempt, who) => {
    if (who === spine) return;
    const laid = align(base, attempt.steps, likeness, equal);
    const owner = new Int32Array(attempt.steps.length).fill(-1);
    laid.forEach((j, i) => {
      if (j >= 0) {
        slots[i]!.members[who] = j;
        owner[j] = i;
      }
    });
    let next = base.length;
    const extra: [number, number][] = [];
    for (let j = attempt.steps.length - 1; j >= 0; j--) {
      if (owner[j]! >= 0) next = owner[j]!;
      else extra.push([next, j]);
    }
    const used = new Map<number, number>();
    for (const [place, j] of extra.reverse()) {
      const here = between.get(place) ?? [];
      between.set(place, here);
      const step = attempt.steps[j]!;
      const from = used.get(place) ?? 0;
      let at = here.findIndex((slot, k) => k >= from && slot.sig === step.sig && slot.members[who] === -1);
      if (at < 0) {
        at = here.length;
        here.push({ sig: step.sig, label: labelOf(step), members: none(attempts.length) });
      }
      here[at]!.members[who] = j;
      used.set(place, at + 1);
    }
  });
  const out: Slot[] = [];
  for (let i = 0; i <= slots.length; i++) {
    out.push(...(between.get(i) ?? []));
    if (i < slots.length) out.push(slots[i]!);
  }
  return out;
}

/** A step's sentence without the data of one attempt: what was typed differs, what was done does not. */
const labelOf = ({ action, label }: SketchStep): string =>
  action === 'type' ? label.replace(/^(Type|Choose file) “[^]*” in “/, '$1 in “') : label;

const none = (count: number): Int32Array => new Int32Array(count).fill(-1);

/** The attempt that stands best for a group: the one whose number of steps and length are in the middle. */
export function typical(sketches: readonly Sketch[]): number {
  const order = sketches.map((_, i) => i);
  order.sort(
    (a, b) => sketches[a]!.steps.length - sketches[b]!.steps.length || sketches[a]!.until - sketches[b]!.until,
  );
  return order[order.length >> 1] ?? 0;
}
