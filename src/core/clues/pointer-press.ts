import { endOf, type PageEvent, type StepEvent } from '../evidence/event.ts';
import type { Lifeline } from '../evidence/lifelines.ts';
import { lineOf, stateAt, type Scene } from './scene.ts';

/** Beyond the target by this, a press was not meant for what it reached, px. */
const outsidePx = 2;

/** A press by pointer actions: what the test had looked at before it, and what it reached. */
export interface PointerPress {
  press: PageEvent;
  step: StepEvent;
  line: Lifeline;
  /** Its point lies in the target's own box, where that is by then. */
  inside: boolean;
  /** It reached the target, or something within it. */
  reached: boolean;
}

/**
 * The presses that a test made by pointer, for which nobody checks what they reach: by pointer actions on what it had looked
 * at before, or on an element by a client that presses though something lies there.
 */
export function pointerPresses(scene: Scene): PointerPress[] {
  return scene.page.flatMap((press) => {
    const { kind, data } = press;
    if (kind !== 'press' || data.x === undefined || data.y === undefined) return [];
    const step = scene.steps.find(
      (one) =>
        one.at <= press.at &&
        endOf(one) + 40 >= press.at &&
        (one.data.action === 'keys' || (one.data.action === 'press' && isCovered(scene, one, press.at))),
    );
    const looked = scene.steps.findLast(
      (one) =>
        step && one.at < step.at && one.data.locator && (one.data.subject === 'rect' || one.data.action === 'find'),
    );
    const meant = step?.data.action === 'press' ? step : looked;
    const line = meant && lineOf(scene, meant);
    const box = line?.segments.findLast((s) => s.from <= press.at)?.state.box;
    if (!step || !line?.label || !box) return [];
    const inside =
      data.x >= box.x - outsidePx &&
      data.x <= box.x + box.width + outsidePx &&
      data.y >= box.y - outsidePx &&
      data.y <= box.y + box.height + outsidePx;
    const hit = data.box;
    const within =
      hit !== undefined &&
      hit.x >= box.x - outsidePx &&
      hit.y >= box.y - outsidePx &&
      hit.x + hit.width <= box.x + box.width + outsidePx &&
      hit.y + hit.height <= box.y + box.height + outsidePx;
    return [{ press, step, line, inside, reached: within || (data.label ?? '').includes(line.label) }];
  });
}

/** Whether a press was carried out though the page tells that something lay over its target. */
const isCovered = (scene: Scene, step: StepEvent, at: number): boolean =>
  !step.data.error && Boolean(stateAt(scene, step, at)?.state.coveredBy);
