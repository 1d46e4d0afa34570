import { allReleased, isModifier } from '../../core/evidence/keys.ts';
import { elementKey } from '../recording/commands.ts';

type Origin = 'viewport' | 'pointer' | Record<string, string>;
/** Where a pointer goes, in whole CSS pixels. */
export interface Point {
  origin: Origin;
  x: number;
  y: number;
}

const move = ({ origin, x, y }: Point, duration = 0): object => ({ type: 'pointerMove', duration, origin, x, y });
const down = (button: number): object => ({ type: 'pointerDown', button });
const up = (button: number): object => ({ type: 'pointerUp', button });
const mouse = (actions: object[]): Record<string, unknown> => ({
  actions: [{ type: 'pointer', id: 'mouse', parameters: { pointerType: 'mouse' }, actions }],
});
const buttons = { twice: 0, right: 2, middle: 1 } as const;
/** As long as a hand takes: pages that drag look at the way, not only at its end. */
const dragMs = 120;

export const middleOf = (element: Record<string, string>): Point => ({
  origin: { [elementKey]: element[elementKey]! },
  x: 0,
  y: 0,
});

export const hovering = (at: Point, overMs = 0): Record<string, unknown> => mouse([move(at, overMs)]);

/** @param overMs how long the pointer is on its way: a page may change meanwhile */
export function clicking(at: Point, how?: keyof typeof buttons, overMs = 0): Record<string, unknown> {
  const button = how ? buttons[how] : 0;
  const once = [down(button), up(button)];
  return mouse([move(at, overMs), ...once, ...(how === 'twice' ? once : [])]);
}

export const dragging = (from: Point, to: Point): Record<string, unknown> =>
  mouse([move(from), down(0), move(to, dragMs), up(0)]);

export const rolling = (x: number, y: number): Record<string, unknown> => ({
  actions: [
    {
      type: 'wheel',
      id: 'wheel',
      actions: [{ type: 'scroll', duration: 0, origin: 'viewport', x: 1, y: 1, deltaX: x, deltaY: y }],
    },
  ],
});

/** Keys one after the other; modifiers stay down until all are let go. */
export function pressingKeys(text: string): Record<string, unknown> {
  const actions: object[] = [];
  let held: string[] = [];
  for (const value of text) {
    if (value === allReleased) {
      for (const key of held.reverse()) actions.push({ type: 'keyUp', value: key });
      held = [];
    } else {
      actions.push({ type: 'keyDown', value });
      if (isModifier(value)) held.push(value);
      else actions.push({ type: 'keyUp', value });
    }
  }
  for (const key of held.reverse()) actions.push({ type: 'keyUp', value: key });
  return { actions: [{ type: 'key', id: 'keyboard', actions }] };
}
