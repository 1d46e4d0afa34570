import { environmentKey } from '../evidence/attempt.ts';
import { contrast, type Difference } from './contrast.ts';
import type { Sketch, SketchStep } from './sketch.ts';

/** What the contrast screen and the API are given: the line-up with the steps of the two that stand for the rest. */
export interface ContrastView {
  failing: AttemptLine[];
  passing: AttemptLine[];
  /** The failing and the passing attempt that are drawn. */
  left: SideView;
  right: SideView | null;
  slots: {
    label: string;
    left: PlankView | null;
    right: PlankView | null;
    failing: [number, number];
    passing: [number, number];
  }[];
  split: { stepIndex: number; at: number; summary: string } | null;
  differences: DifferenceView[];
  /** How many there were before the weakest were left out. */
  found: number;
  /** So few attempts that even a complete parting may be chance. */
  weak: boolean;
}

/** One attempt as it is drawn: what stands beside its steps. */
export interface SideView {
  id: string;
  /** When its first step began: both sides are drawn from there. */
  start: number;
  until: number;
  requests: { key: string; event: string; at: number; until: number; own: boolean; ended: string }[];
  lines: { text: string; level: string; event: string; at: number }[];
}

export interface AttemptLine {
  id: string;
  environment: string;
  commit: string | null;
  startedAt: number;
}

export interface PlankView {
  event: string;
  label: string;
  at: number;
  until: number;
  error: string | null;
  value: string | null;
  page: string | null;
}

export type DifferenceView = Pick<
  Difference,
  'summary' | 'kind' | 'failing' | 'passing' | 'p' | 'q' | 'effect' | 'strong' | 'slot' | 'dots' | 'words'
> & {
  /** The event that shows it, by attempt, failing ones first; null where there is none. */
  shown: ({ attempt: string; event: string; at: number } | null)[];
};

/** Most differences that are told; those left out are the weakest. */
const mostDifferences = 80;

/** Failing against passing attempts as a screen shows them. The first failing attempt is the one drawn. */
export function contrastView(failing: readonly Sketch[], passing: readonly Sketch[]): ContrastView {
  const result = contrast(failing, passing);
  const all = [...failing, ...passing];
  const right = result.typical;
  const counts = (members: Int32Array, from: number, until: number): [number, number] => [
    members.slice(from, until).filter((index) => index >= 0).length,
    until - from,
  ];
  return {
    failing: failing.map(lineOf),
    passing: passing.map(lineOf),
    left: sideOf(failing[0]!),
    right: right < 0 ? null : sideOf(all[right]!),
    slots: result.slots.map(({ label, members }) => ({
      label,
      left: plankOf(all[0]!.steps[members[0]!]),
      right: right < 0 ? null : plankOf(all[right]!.steps[members[right]!]),
      failing: counts(members, 0, failing.length),
      passing: counts(members, failing.length, all.length),
    })),
    split: result.split ? { stepIndex: result.split.slot, at: result.split.at, summary: result.split.summary } : null,
    differences: result.differences.slice(0, mostDifferences).map(({ shown, ...one }) => ({
      ...one,
      shown: shown.map((here, i) => here && { attempt: all[i]!.id, ...here }),
    })),
    found: result.differences.length,
    weak: result.weak,
  };
}

/** Most requests and lines that are drawn beside one attempt. */
const mostBeside = 120;

const sideOf = (one: Sketch): SideView => ({
  id: one.id,
  start: one.steps[0]?.at ?? 0,
  until: one.until,
  requests: one.requests
    .slice(0, mostBeside)
    .map(({ key, event, at, until, own, ended }) => ({ key, event, at, until, own, ended })),
  lines: one.console.slice(0, mostBeside).map(({ text, level, event, at }) => ({ text, level, event, at })),
});

const lineOf = (one: Sketch): AttemptLine => ({
  id: one.id,
  environment: environmentKey(one.environment),
  commit: one.commit ?? null,
  startedAt: one.startedAt,
});

const plankOf = (step: SketchStep | undefined): PlankView | null =>
  step
    ? {
        event: step.events[0]!,
        label: step.label,
        at: step.at,
        until: step.until,
        error: step.error ?? null,
        value: step.value ?? null,
        page: step.page ?? null,
      }
    : null;
