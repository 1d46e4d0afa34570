import { endOf, type StepEvent } from '../evidence/event.ts';
import { targetName } from '../evidence/labels.ts';
import { landingOf } from '../evidence/landing.ts';
import { nameAt, type Lifeline, type LifelineSegment } from '../evidence/lifelines.ts';
import type { Clue, ClueKind } from './clue.ts';
import { byPointer } from '../contrast/sketch.ts';
import { lineOf, sameInPassing, type Scene } from './scene.ts';
import { thresholdsOf } from './thresholds.ts';

/** Between measuring and pressing, longer than this is another story. */
const longestMs = 5000;

/** The target stood elsewhere when the press came than when the test had measured or found it. */
export const targetMoved: ClueKind = {
  code: 'target-moved',
  about: 'The target moved between being measured or found and being pressed.',
  find: (scene) =>
    scene.steps.flatMap((press): Omit<Clue, 'code'>[] => {
      const byHand = byPointer(press);
      if (!byHand && press.data.action !== 'press') return [];
      const measured = byHand ? measuredBefore(scene.steps, press) : press;
      const line = measured && lineOf(scene, measured);
      if (byHand && measured?.data.action === 'script') return shiftedMeanwhile(scene, measured, press);
      if (!measured || !line) return [];
      const from = byHand && measured.data.subject === 'rect' ? endOf(measured) : measured.at;
      const landed = landingOf(scene.page, press);
      // A driver measures again before it presses: what it reached it was meant for.
      if (!byHand && landed?.data.label && measured.data.label.includes(nameOf(landed.data.label))) return [];
      const at = landed?.at;
      const until = at ?? endOf(press);
      if (until - from > longestMs) return [];
      const moves = line.segments.filter((one) => one.kind === 'moved' && one.from > from && one.from <= until + 20);
      const start = line.segments.findLast((one) => one.from <= from) ?? line.segments[0]!;
      const distance = moved(start, moves.at(-1));
      // A pixel or two is what hovering and fonts do.
      if (distance < thresholdsOf(scene).movedPx || scrolled(scene, line, start, moves, from, until)) return [];
      return [
        {
          at: press.at,
          until,
          summary: `${targetName(measured.data, nameAt(line, from))} had moved by ${Math.round(distance)} pixels ${byHand ? 'since it was measured' : 'while it was being pressed'}`,
          strength: byHand ? 1 : landed ? 0.6 : 0.2,
          evidence: [press.id, moves.at(-1)!.event, measured.id],
        },
      ];
    }),
};

/**
 * Did the view move, and not the target? Drivers scroll what they press into view: all that is watched then goes the
 * same way, and the browser tells of no shift.
 */
function scrolled(
  scene: Scene,
  own: Lifeline,
  start: LifelineSegment,
  moves: readonly LifelineSegment[],
  from: number,
  until: number,
): boolean {
  if (scene.page.some((one) => one.kind === 'layout-shift' && one.at >= from - 20 && one.at <= until + 60))
    return false;
  const [a, b] = [start.state.box, moves.at(-1)?.state.box];
  if (!a || !b || Math.abs(a.x - b.x) > 1) return false;
  const { height } = scene.facts.environment;
  if (a.y < 0 || (height !== undefined && a.y + a.height > height)) return true;
  return [...scene.lifelines.values()].some((line) => {
    if (line === own) return false;
    const before = line.segments.findLast((one) => one.from <= from)?.state.box;
    const after = line.segments.findLast((one) => one.from <= until + 20)?.state.box;
    return before && after && Math.abs(after.y - before.y - (b.y - a.y)) <= 2 && Math.abs(after.x - before.x) <= 2;
  });
}

/** A place that a script measured is known as a number only: what the page says of its own shifts must do. */
function shiftedMeanwhile(scene: Scene, measured: StepEvent, press: StepEvent): Omit<Clue, 'code'>[] {
  const step = scene.sketch.steps.find(({ events }) => events.includes(press.id));
  const usual = step && sameInPassing(scene, step).find(({ reached }) => reached !== undefined)?.reached;
  const shift = scene.page.find(
    ({ kind, at }) => kind === 'layout-shift' && at >= endOf(measured) && at <= endOf(press),
  );
  if (!shift || !step?.reached || !usual || usual === step.reached) return [];
  return [
    {
      at: press.at,
      until: endOf(press),
      summary: `What stood there had moved since a script measured it: the page shifted ${Math.round(shift.at - endOf(measured))} ms later, and the press reached ${step.reached}`,
      strength: 1,
      evidence: [press.id, shift.id, measured.id],
    },
  ];
}

/** What a press by coordinates was measured by: a script that answered with its point, the last rectangle asked for, or the last element found. */
function measuredBefore(steps: readonly StepEvent[], press: StepEvent): StepEvent | undefined {
  const before = steps.filter((step) => step.at < press.at);
  const last = before.at(-1);
  if (last?.data.action === 'script' && isPoint(last.data.result)) return last;
  return (
    before.findLast((step) => step.data.subject === 'rect' || step.data.subject === 'location') ??
    before.findLast((step) => step.data.action === 'find' && !step.data.error)
  );
}

const isPoint = (result: unknown): boolean =>
  typeof result === 'object' &&
  result !== null &&
  typeof (result as { x?: unknown }).x === 'number' &&
  typeof (result as { y?: unknown }).y === 'number';

function moved(start: LifelineSegment, end: LifelineSegment | undefined): number {
  const [a, b] = [start.state.box, end?.state.box];
  return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0;
}

/** What an element is called in the words of a press: button.add “Add stage”. */
const nameOf = (label: string): string => {
  const [from, until] = [label.indexOf('“'), label.lastIndexOf('”')];
  return from >= 0 && until > from ? label.slice(from + 1, until) : label;
};
