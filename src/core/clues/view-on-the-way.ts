import { arrivedAt, endOf, type StepEvent } from '../evidence/event.ts';
import { pathOf, said, shorten } from '../evidence/labels.ts';
import { requestKey } from '../contrast/sketch.ts';
import type { Clue, ClueKind } from './clue.ts';
import { isOrnament } from './relevance.ts';
import { acting, leftPage, lineOf, sameInPassing, sketched, stateAt, waitOf, type Scene } from './scene.ts';

/** A page that goes to another view asks for it within this of changing its address, ms. */
const askedWithinMs = 400;
/** It shows what it has of a view when it changes its address, or a little before, ms. */
const shownBeforeMs = 60;

/** A page that changes its address by itself has gone to another view: what stands there is still the old one. */
export const viewOnTheWay: ClueKind = {
  code: 'view-on-the-way',
  about:
    'The page had changed its address without loading anew, and the view that belongs to it was still being fetched.',
  find: (scene) => {
    const { failing } = scene;
    if (!failing) return [];
    const acts = scene.steps.filter((step) => step.at < failing.at && acting(step));
    const last = acts.at(-1);
    // The last act may itself have been done on the view that its predecessor had left.
    return (last && acts.length > 1 && found(scene, last, acts.at(-2)!, true)) || failedAt(scene, last);
  },
};

function failedAt(scene: Scene, acted: StepEvent | undefined): Omit<Clue, 'code'>[] {
  return (!waitOf(scene) && acted && found(scene, scene.failing!, acted, false)) || [];
}

/** What was done to the old view between a change of address and the answer that brings the new one. */
function found(scene: Scene, step: StepEvent, acted: StepEvent, act: boolean): Omit<Clue, 'code'>[] | undefined {
  const left = leftFor(scene, step, acted);
  if (!left) return undefined;
  const from = Math.min(acted.at, left.at - askedWithinMs);
  const request = scene.network.find(
    (one) =>
      one.data.own &&
      !isOrnament(one.data.type) &&
      one.at >= from &&
      one.at <= left.at + askedWithinMs &&
      one.at <= step.at &&
      arrivedAt(one) > endOf(step),
  );
  if (!request || stoodAnew(scene, step, left.at)) return undefined;
  const alone = scene.passing.length === 0;
  // A test may well act while something loads; that the page had gone on and what it used had stood there before tells enough.
  const onTheOld = alone && left.changed && stoodBefore(scene, step, left.at);
  if ((act || !left.changed) && !onTheOld && !answeredInPassing(scene, step, requestKey(request))) return undefined;
  return [
    {
      at: step.at,
      until: arrivedAt(request),
      summary: `${said(step.data.label)} came after ${left.changed ? 'the page had gone' : `${said(acted.data.label)} led`} to ${shorten(left.address, 28)} and before ${requestKey(request)} had brought its view`,
      strength: act && alone ? 0.8 : 1,
      evidence: [step.id, left.event, request.id],
    },
  ];
}

/** Where the page had gone, by its address, or was going, by a link that was pressed and keeps the old view until it has the new one. */
function leftFor(
  scene: Scene,
  step: StepEvent,
  acted: StepEvent,
): { at: number; address: string; event: string; changed: boolean } | undefined {
  const changed = scene.page.findLast(
    (event) => event.kind === 'fragment' && event.at > acted.at && event.at <= step.at,
  );
  if (changed) return { at: changed.at, address: pathOf(changed.data.address ?? ''), event: changed.id, changed: true };
  const other = addressChanged(scene, step, acted);
  if (other) return other;
  const pressed = stateAt(scene, acted)?.state;
  const href = pressed?.tag === 'a' ? pressed.attrs?.['href'] : undefined;
  const landed = scene.page.find(({ kind, at }) => kind === 'press' && at >= acted.at && at <= endOf(acted));
  if (!href || href.startsWith('#') || acted.data.action !== 'press' || !landed) return undefined;
  return { at: landed.at, address: href, event: acted.id, changed: false };
}

/** A page that changes its address by itself tells nobody; the documents that were written down name it. */
function addressChanged(scene: Scene, step: StepEvent, acted: StepEvent): ReturnType<typeof leftFor> {
  const { context } = acted.data;
  const written = scene.page.filter(
    ({ kind, data }) => kind === 'structure' && (context === undefined || data.context === context),
  );
  const before = written.findLast((one) => one.at <= endOf(acted))?.data.address;
  const after = written.find((one) => one.at > endOf(acted) && one.at <= step.at);
  const address = after?.data.address;
  if (!before || !address || address === before || leftPage(scene, acted.at, step.at)) return undefined;
  return { at: endOf(acted), address: pathOf(address), event: after.id, changed: true };
}

/** Whether what a step used had been there, the same, before a change of address. */
function stoodBefore(scene: Scene, step: StepEvent, changedAt: number): boolean {
  const segment = lineOf(scene, step)?.segments.findLast(({ from, kind }) => from <= step.at && kind !== 'moved');
  return segment !== undefined && segment.state.node !== null && segment.from < changedAt;
}

/** Whether the target came with the change of address: a view that is shown from what the page has kept is no longer on its way. */
function stoodAnew(scene: Scene, step: StepEvent, changedAt: number): boolean {
  const segment = lineOf(scene, step)?.segments.findLast(({ from, kind }) => from <= step.at && kind !== 'moved');
  return (
    segment !== undefined &&
    segment.from >= changedAt - shownBeforeMs &&
    (segment.kind === 'appeared' || segment.kind === 'replaced')
  );
}

/** Passing attempts did the same only once the answer had come: a test may well press on while something loads. */
function answeredInPassing(scene: Scene, step: StepEvent, key: string): boolean {
  const own = sketched(scene, step);
  const same = own ? sameInPassing(scene, own) : [];
  return same.length > 0 && same.every((one) => one.inFlight[key] === undefined);
}
