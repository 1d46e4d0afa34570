import { passingAt, type Scene } from '../clues/scene.ts';
import { isOrnament } from '../clues/relevance.ts';
import { askedAgain } from '../contrast/asked-again.ts';
import type { Sketch, SketchRequest, SketchStep } from '../contrast/sketch.ts';
import { endOf, type StepEvent } from '../evidence/event.ts';

/** What a test does to a page, after which the page may show something else. */
const acts: ReadonlySet<string> = new Set(['open', 'navigate', 'press', 'type', 'clear', 'keys', 'dialog']);
/** What a step may depend on what is there for. */
const uses: ReadonlySet<string> = new Set(['press', 'type', 'clear', 'keys', 'read']);

/** Does something, or looks once at what is there; waits are not among them. */
export const usesPage = (step: SketchStep): boolean => uses.has(step.action) && !step.polls && !step.error;

/** The last thing done before a step, in the same attempt. */
export function actBefore({ steps }: Sketch, step: SketchStep): SketchStep | undefined {
  return steps.findLast((one) => acts.has(one.action) && !one.error && one !== step && one.until <= step.at);
}

const foundEvents = new WeakMap<Scene, ReadonlyMap<string, StepEvent>>();

/** The event that a sketched step was drawn from. */
export function eventOf(scene: Scene, step: SketchStep): StepEvent | undefined {
  let events = foundEvents.get(scene);
  if (!events) foundEvents.set(scene, (events = new Map([...scene.waits, ...scene.steps].map((one) => [one.id, one]))));
  return events.get(step.events[0]!);
}

/** Whether the test waited for anything between a moment and a step, by polls or inside of a find. */
export function waitedBetween(scene: Scene, from: number, step: SketchStep): boolean {
  return scene.waits.some(
    (wait) =>
      wait.kind === 'wait' &&
      wait.at >= from &&
      (endOf(wait) <= step.at + 1 || step.events.includes(wait.id.replace(/^i:/, ''))),
  );
}

/** The fixed sleep between a moment and a step, the last one. */
export const pauseBetween = (scene: Scene, from: number, step: SketchStep): StepEvent | undefined =>
  scene.waits.findLast(({ kind, at }) => kind === 'pause' && at >= from - 1 && at < step.at);

/** More passing attempts than these tell little more. */
const mostPassing = 8;
const foundEverywhere = new WeakMap<SketchStep, { attempt: Sketch; step: SketchStep }[]>();

/** The same step in this attempt and in the newest passing ones it is held against, each with its attempt. */
export function everywhere(scene: Scene, step: SketchStep): { attempt: Sketch; step: SketchStep }[] {
  let all = foundEverywhere.get(step);
  if (!all) {
    all = [{ attempt: scene.sketch, step }, ...passingAt(scene, step).slice(0, mostPassing)];
    foundEverywhere.set(step, all);
  }
  return all;
}

const foundAgain = new WeakMap<Scene, ReadonlySet<string>>();

/** What pages ask for again and again, in this attempt or in one that it is held against. */
function again(scene: Scene): ReadonlySet<string> {
  let known = foundAgain.get(scene);
  if (!known) foundAgain.set(scene, (known = askedAgain([scene.sketch, ...scene.passing])));
  return known;
}

const foundTelling = new WeakMap<Scene, Map<Sketch, readonly SketchRequest[]>>();

/** Requests of one attempt that something may hang on, in time order, without those that pages make again and again. */
export function telling(scene: Scene, attempt: Sketch): readonly SketchRequest[] {
  let known = foundTelling.get(scene);
  if (!known) foundTelling.set(scene, (known = new Map()));
  let list = known.get(attempt);
  if (!list) {
    list = attempt.requests
      .filter(({ key, type }) => !isOrnament(type) && type !== 'document' && !again(scene).has(key))
      .sort((a, b) => a.at - b.at);
    known.set(attempt, list);
  }
  return list;
}

/** Where in the test's own file a step stands, if it told. */
export function sourceOf(scene: Scene, step: SketchStep): { source?: string } {
  const own = eventOf(scene, step)?.data.source;
  const source =
    own ?? scene.notes.find(({ at, data }) => data.source && at >= step.until && at - step.until < 50)?.data.source;
  return source ? { source } : {};
}

/** Those of a list in time order that begin from a moment up to another. */
export function begunBetween(list: readonly SketchRequest[], from: number, until: number): SketchRequest[] {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle]!.at < from) low = middle + 1;
    else high = middle;
  }
  const out: SketchRequest[] = [];
  for (let i = low; i < list.length && list[i]!.at <= until; i++) out.push(list[i]!);
  return out;
}

/** The line that a risk is about: which step, and where in the test's own file. */
export const lineTold = (scene: Scene, step: SketchStep): { key: string; step: string; source?: string } => ({
  key: step.sig,
  step: step.label,
  ...sourceOf(scene, step),
});

/** Of what happened around a time, the nearest to it. @param list not empty */
export const nearestTo = <T extends { from: number }>(list: readonly T[], at: number): T =>
  list.reduce((best, one) => (Math.abs(one.from - at) < Math.abs(best.from - at) ? one : best));
