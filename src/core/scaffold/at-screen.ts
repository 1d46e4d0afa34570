import {
  endOf,
  type Box,
  type ElementState,
  type PageEvent,
  type ScreenEvent,
  type StepEvent,
} from '../evidence/event.ts';
import { segmentAt, type Lifeline, type LifelineSegment } from '../evidence/lifelines.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Failure } from '../failures/failure.ts';
import type { Poles } from './poles.ts';

/** What is drawn over the picture at a level, in CSS pixels of the window. */
export interface OnScreen {
  /** The locator in question: of the step at the level, else the failing one. */
  line?: Lifeline;
  segment?: LifelineSegment;
  /** The target's box in the window. */
  box?: Box;
  /** The target is another node than it was at first. */
  replaced: boolean;
  press?: PressPoint;
  /** The target stands in a frame of another host: where on the picture cannot be known. */
  unplaced: boolean;
}

export interface PressPoint {
  x: number;
  y: number;
  /** The press did not reach its target. */
  missed: boolean;
  /** What was there, in words. */
  reached?: string;
}

/** A step speaks for a moment for this long, ms. */
const speaksMs = 1500;
/** The page tells of a press within this time of the command's answer, ms. */
const pressWithinMs = 60;

export type FailureSpot = Pick<Failure, 'step' | 'point' | 'obstructing'>;

/**
 * What to draw over the picture of a moment.
 * @param step the step at the level
 * @param failing locator key of the failing target
 * @param failure where the failure says that it pressed
 */
export function onScreen(
  poles: Poles,
  level: number,
  step: StepEvent | undefined,
  failing: string | undefined,
  failure: FailureSpot | undefined,
): OnScreen {
  const lineOf = (key: string | undefined): Lifeline | undefined =>
    key === undefined ? undefined : poles.lifelines.find((one) => one.locator === key);
  const asked = step?.data.locator && level - step.at < speaksMs ? locatorKey(step.data.locator) : undefined;
  const line = lineOf(asked) ?? lineOf(failing);
  const segment = line && segmentAt(line, level);
  const state = segment?.state;
  const press = pressAt(poles.page, step, failure, state);
  return {
    line,
    segment,
    box: state?.box && inWindow(state.box, state.offset),
    replaced: Boolean(
      line && segment?.state.node != null && line.segments.some((s) => s.from <= segment.from && s.kind === 'replaced'),
    ),
    press,
    unplaced: Boolean(state?.box && state.offset === null),
  };
}

/** A box of a document moved to where the document stands in the window; none when that cannot be known. */
function inWindow(box: Box, offset: { x: number; y: number } | null | undefined): Box | undefined {
  if (offset === null) return undefined;
  return offset ? { ...box, x: box.x + offset.x, y: box.y + offset.y } : box;
}

function pressAt(
  page: readonly PageEvent[],
  step: StepEvent | undefined,
  failure: FailureSpot | undefined,
  state: ElementState | undefined,
): PressPoint | undefined {
  if (!step || step.data.action !== 'press') return undefined;
  const failed = failure?.step === step.id;
  if (failed && failure.point && state?.offset !== null) {
    // The driver tells the point as the target's own document sees it.
    const { x, y } = state?.offset ?? { x: 0, y: 0 };
    const reached = failure.obstructing ?? state?.coveredBy;
    return { x: failure.point.x + x, y: failure.point.y + y, missed: true, ...(reached ? { reached } : {}) };
  }
  const event = page.find((e) => e.kind === 'press' && e.at >= step.at - 5 && e.at <= endOf(step) + pressWithinMs);
  if (event && event.data.offset !== null) {
    const { x, y } = event.data.offset ?? { x: 0, y: 0 };
    return { x: event.data.x! + x, y: event.data.y! + y, missed: false, reached: event.data.label };
  }
  const box = state?.box && inWindow(state.box, state.offset);
  // The press never reached the page: it was meant for the middle of the target.
  return failed && box ? { x: box.x + box.width / 2, y: box.y + box.height / 2, missed: true } : undefined;
}

/** Size of the window on a picture, CSS pixels: its own pixels by how many make one. */
export function windowSize({ data }: ScreenEvent): { width: number; height: number } {
  // A frame tells the window's size whatever its own; a screenshot tells its pixels.
  const scale = data.mime === 'image/png' ? data.scale || 1 : 1;
  return { width: data.width / scale || 1280, height: data.height / scale || 800 };
}
