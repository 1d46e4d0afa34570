import { elementKey, listOf } from '../evidence/action-words.ts';
import type { StepEvent } from '../evidence/event.ts';
import { allReleased, isModifier, keyWords } from '../evidence/keys.ts';
import type { Amount, Place, Statement, Target } from './drill.ts';

type Json = Record<string, unknown>;
const numberOf = (value: unknown): number => (typeof value === 'number' ? value : 0);

/** What the builder of a drill knows of elements and of places that a test measured. */
export interface Known {
  target(element: string): Target | undefined;
  /** A place in the window, put together from what the test measured before, where it was. */
  place(x: number, y: number): { x: Amount; y: Amount };
}

/** The body of a “perform actions” as statements; nothing where no statement does the same. */
export function statementsOf(step: StepEvent, known: Known): Statement[] | undefined {
  let body: Json;
  try {
    body = JSON.parse(step.data.input ?? '') as Json;
  } catch {
    return undefined;
  }
  const sources = listOf(body.actions).filter(({ actions }) => listOf(actions).some(({ type }) => type !== 'pause'));
  if (sources.length !== 1) return undefined;
  const [source] = sources as [Json];
  const actions = listOf(source.actions).filter(({ type }) => type !== 'pause');
  if (source.type === 'key') return keys(actions);
  if (source.type === 'wheel') return wheel(actions);
  return source.type === 'pointer' ? pointer(actions, listOf(source.actions), known) : undefined;
}

function keys(actions: readonly Json[]): Statement[] | undefined {
  let typed = '';
  let held = 0;
  for (const { type, value } of actions) {
    if (typeof value !== 'string') return undefined;
    if (type === 'keyDown') typed += value;
    if (!isModifier(value)) continue;
    held += type === 'keyDown' ? 1 : -1;
    if (type === 'keyUp' && held <= 0) typed += allReleased;
  }
  if (!typed || typed.includes('”')) return undefined;
  return [{ do: 'keys', keys: keyWords(typed) }];
}

function wheel(actions: readonly Json[]): Statement[] | undefined {
  const scrolls = actions.filter(({ type }) => type === 'scroll');
  if (!scrolls.length || scrolls.length !== actions.length) return undefined;
  return scrolls.map(({ deltaX, deltaY }) => ({ do: 'scroll by', x: numberOf(deltaX), y: numberOf(deltaY) }));
}

const buttons: Record<number, 'middle' | 'right'> = { 1: 'middle', 2: 'right' };

function pointer(actions: readonly Json[], all: readonly Json[], known: Known): Statement[] | undefined {
  const kinds = actions.map(({ type }) => (type as string).replace('pointer', '').toLowerCase()).join(' ');
  const places = actions.filter(({ type }) => type === 'pointerMove').map((move) => placeOf(move, known));
  if (places.includes(undefined)) return undefined;
  const [at] = places as [Place | 'relative' | undefined];
  if (at === undefined || at === 'relative') return undefined;
  const button = numberOf(actions.find(({ type }) => type === 'pointerDown')?.button);
  const how = buttons[button] ? { how: buttons[button] } : {};
  const over = travelMs(all);
  if (kinds === 'move') return [{ do: 'hover', at, ...over }];
  if (kinds === 'move down up') return [{ do: 'click', at, ...how, ...over }];
  if (kinds === 'move down up down up') return [{ do: 'click', at, how: 'twice' }];
  if (!/^move down(?: move)+ up$/.test(kinds)) return undefined;
  const moves = actions.filter(({ type }) => type === 'pointerMove').slice(1);
  if (moves.every(({ origin }) => origin === 'pointer')) {
    const sum = (key: 'x' | 'y'): number => moves.reduce((all, move) => all + numberOf(move[key]), 0);
    return [{ do: 'drag by', from: at, x: sum('x'), y: sum('y') }];
  }
  const to = places.at(-1)!;
  return to === 'relative' ? undefined : [{ do: 'drag', from: at, to }];
}

/** A pointer that is on its way for less does not give a page time to change. */
const noticeable = 50;

/** How long the pointer is on its way before it is pressed. */
function travelMs(actions: readonly Json[]): { overMs?: number } {
  let sum = 0;
  for (const { type, duration } of actions) {
    if (type === 'pointerDown') break;
    sum += numberOf(duration);
  }
  return sum >= noticeable ? { overMs: Math.round(sum) } : {};
}

function placeOf(move: Json, known: Known): Place | 'relative' | undefined {
  const { origin } = move;
  const [x, y] = [numberOf(move.x), numberOf(move.y)];
  if (origin === 'pointer') return 'relative';
  const id = origin && typeof origin === 'object' ? (origin as Json)[elementKey] : undefined;
  if (typeof id !== 'string') return known.place(x, y);
  const target = known.target(id);
  return target && { target, ...(x || y ? { offset: { x, y } } : {}) };
}
