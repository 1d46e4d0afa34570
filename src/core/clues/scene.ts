import { contrast, type Contrast, type Difference } from '../contrast/contrast.ts';
import type { FeatureKind } from '../contrast/feature.ts';
import { sketchOf, type Sketch, type SketchFacts, type SketchStep } from '../contrast/sketch.ts';
import { arrivedAt, endOf, type EvidenceEvent, type NetworkEvent, type StepEvent } from '../evidence/event.ts';
import type { ReadMarkup } from '../evidence/documents.ts';
import { segmentAt, type Lifeline, type LifelineSegment } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import { prepare, type AttemptFacts, type Evidence } from '../evidence/prepare.ts';
import type { Failure } from '../failures/failure.ts';
import { readFailure } from '../failures/read.ts';
import type { Ordinary } from '../ordinary/ordinary.ts';
import type { Shown } from '../trials/shown.ts';
import type { Look } from '../vision/compare.ts';

/** Everything a clue may look at: the attempt's own evidence and, where passing ones are known, how it parts from them. */
export interface Scene extends Evidence {
  failure?: Failure;
  sketch: Sketch;
  /** Passing attempts of the same test that it is held against; empty when none is known. */
  passing: readonly Sketch[];
  /** Present when there are passing attempts. */
  against?: Contrast;
  /** The same with the others of its family, where there are any. */
  together?: Contrast;
  /** What the picture of the failure shows, where somebody looked. */
  look?: Look;
  /** What happens in attempts that pass, of all tests, where that is known. */
  ordinary?: Ordinary;
  /** Others of the same test that failed as this one did. */
  kin?: readonly Sketch[];
  /** What trials of this failure have shown, where a search was played. */
  trials?: Shown;
  /** Reads the documents that were written down, where they are at hand. */
  markup?: ReadMarkup;
}

/** Sets the scene of one attempt. */
export function sceneOf(
  events: readonly EvidenceEvent[],
  facts: AttemptFacts,
  {
    passing,
    look,
    ordinary,
    markup,
    ...about
  }: SketchFacts & {
    passing: readonly Sketch[];
    look?: Look;
    ordinary?: Ordinary;
    markup?: ReadMarkup;
  } = {
    id: '',
    startedAt: 0,
    passing: [],
  },
): Scene {
  const evidence = prepare(events, facts);
  const failure = readFailure(evidence);
  const sketch = sketchOf(evidence, about);
  const against = passing.length ? contrast([sketch], passing) : undefined;
  return {
    ...evidence,
    ...(failure ? { failure } : {}),
    sketch,
    passing,
    ...(against ? { against } : {}),
    ...(look ? { look } : {}),
    ...(ordinary ? { ordinary } : {}),
    ...(markup ? { markup } : {}),
  };
}

/** Strong differences of some kinds, the earliest first. */
export function parted(scene: Scene, ...kinds: FeatureKind[]): Difference[] {
  return (scene.against?.differences ?? [])
    .filter((one) => one.strong && kinds.includes(one.kind))
    .sort((a, b) => a.slot - b.slot);
}

/** The step of this attempt that stands at a place of the line-up. */
export function stepAt(scene: Scene, slot: number): SketchStep | undefined {
  const index = scene.against?.slots[slot]?.members[0] ?? -1;
  return index < 0 ? undefined : scene.sketch.steps[index];
}

/** The passing attempts that have a step at the same place as one of this attempt's own, each with that step. */
export function passingAt(scene: Scene, step: SketchStep): { attempt: Sketch; step: SketchStep }[] {
  const { against, passing } = scene;
  if (!against) return [];
  const index = scene.sketch.steps.indexOf(step);
  const slot = against.slots.find(({ members }) => members[0] === index);
  if (!slot) return [];
  return passing.flatMap((attempt, i) => {
    const same = attempt.steps[slot.members[i + 1]!];
    return same ? [{ attempt, step: same }] : [];
  });
}

/** Steps of the passing attempts at the same place as one of this attempt's own. */
export const sameInPassing = (scene: Scene, step: SketchStep): SketchStep[] =>
  passingAt(scene, step).map((one) => one.step);

/** The sketched step that an event belongs to, as itself, as the find before it, or as a try inside a wait. */
export function sketched(scene: Scene, event: StepEvent | undefined): SketchStep | undefined {
  if (!event) return undefined;
  const id = scene.insideWait.get(event.id) ?? event.id;
  return scene.sketch.steps.find((step) => step.events.includes(id));
}

/** The sketched step at which the attempt failed. */
export const failingStep = (scene: Scene): SketchStep | undefined => sketched(scene, scene.failing);

export const lineOf = (scene: Evidence, step: StepEvent): Lifeline | undefined =>
  step.data.locator && scene.lifelines.get(locatorKey(step.data.locator));

export const stateAt = (scene: Evidence, step: StepEvent, at = step.at): LifelineSegment | undefined => {
  const line = lineOf(scene, step);
  return line && segmentAt(line, at);
};

/** Steps that do something to a page, and were carried out. */
export const acting = (step: StepEvent): boolean =>
  (step.data.action === 'press' || step.data.action === 'type' || step.data.action === 'keys') && !step.data.error;

/** Whether another page came into the window after a time, up to another, ms. */
export const leftPage = ({ page }: Scene, after: number, until: number): boolean =>
  page.some(({ kind, at }) => kind === 'navigation-committed' && at > after && at <= until);

/** Asked by a page that the test had left before the answer came: nothing waits for it any more. */
export const leftBehind = (scene: Scene, request: NetworkEvent): boolean =>
  request.data.type !== 'document' &&
  scene.page.some(
    ({ kind, at, data }) =>
      kind === 'navigation-committed' &&
      at > request.at &&
      at < arrivedAt(request) &&
      (request.data.context === undefined || data.context === undefined || data.context === request.data.context),
  );

/** When the attempt stopped asking: the end of the wait or of the step it failed at. */
export function gaveUpAt(scene: Scene): number | undefined {
  const { failing } = scene;
  if (!failing) return undefined;
  const wait = waitOf(scene);
  return wait ? endOf(wait) : endOf(failing);
}

/**
 * When an attempt failed and what shows it. Where no step was recorded, the check that failed, the last
 * line of the console or the last picture stands for it: what a report alone can give.
 */
export function momentOf(scene: Scene): { at: number; evidence: string[] } | undefined {
  if (!scene.failure) return undefined;
  const { failing } = scene;
  if (failing) return { at: failing.at, evidence: [failing.id] };
  const shows =
    scene.notes.findLast((note) => note.data.ok === false) ??
    scene.screens.at(-1) ??
    scene.console.findLast((line) => line.data.level === 'error');
  return shows ? { at: shows.at, evidence: [shows.id] } : { at: scene.until, evidence: [] };
}

/**
 * Where a clue about the whole attempt stands: at its first step or, where no step was recorded, where it failed.
 * What shows it is the failure.
 */
export function wholeOf(scene: Scene): { at: number; evidence: string[] } | undefined {
  const moment = momentOf(scene);
  const first = scene.steps[0];
  return first ? { at: first.at, evidence: moment?.evidence ?? [first.id] } : moment;
}

/** The wait the attempt failed in, if it did. */
export function waitOf(scene: Scene): StepEvent | undefined {
  const id = scene.failing && scene.insideWait.get(scene.failing.id);
  if (id) return scene.waits.find((wait) => wait.id === id);
  return scene.failing && scene.waits.find((wait) => wait.id === scene.failing!.id);
}

/** True for a step that blocked, or a wait that polled, until its limit was over. */
export const timedOut = (scene: Scene): boolean => {
  if (scene.failure?.kind === 'timeout') return true;
  const { failing } = scene;
  return failing?.data.action === 'find' && Boolean(failing.data.error) && endOf(failing) - failing.at >= 400;
};

/** "6 of 6 passing attempts", with the count in words that fit one. */
export const ofPassing = (hits: number, of: number): string =>
  of === 1 && hits === 1 ? 'in the one passing attempt' : `in ${hits} of ${of} passing attempts`;
