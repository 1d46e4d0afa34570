import { keyWritten } from './key-codes.ts';

type Json = Record<string, unknown>;

/** An act of pointer, wheel or keys as one WebDriver command says it. */
export interface JoinedAct {
  actions: Json[];
  at: number;
  until: number;
}

/** One input event of a client, and when it came. */
export interface InputEvent {
  method: string;
  params: Json;
  at: number;
}

/** Keys further apart than this are two acts of typing, ms. */
const typingGapMs = 1500;
/** A pointer that moves less is held still. */
const stillPx = 3;

interface Pressing {
  kind: 'press';
  at: number;
  moves: { x: number; y: number }[];
  button: number;
  clicks: number;
}
interface Hovering {
  kind: 'hover';
  at: number;
  x: number;
  y: number;
}
interface Typing {
  kind: 'typing';
  at: number;
  last: number;
  actions: Json[];
}

const buttons: Readonly<Record<string, number>> = { left: 0, middle: 1, right: 2 };
const num = (value: unknown): number => (typeof value === 'number' && Number.isFinite(value) ? Math.round(value) : 0);
const text = (value: unknown): string => (typeof value === 'string' ? value : '');

const pointer = (actions: Json[]): Json => ({
  type: 'pointer',
  id: 'pointer',
  parameters: { pointerType: 'mouse' },
  actions,
});
const moveTo = ({ x, y }: { x: number; y: number }): Json => ({ type: 'pointerMove', x, y, origin: 'viewport' });

/**
 * Joins the single events that clients send (moved, down, up; key by key) to what a person would say was done: a press,
 * a drag, a hover, a text typed.
 */
export class InputJoining {
  private open: Pressing | Hovering | Typing | undefined;

  constructor(private readonly done: (act: JoinedAct) => void) {}

  /** Until when what is open may still go on by itself; nothing where nothing is. */
  get opened(): number | undefined {
    return this.open?.kind === 'typing' ? this.open.last : this.open?.at;
  }

  take({ method, params, at }: InputEvent): void {
    switch (method) {
      case 'Input.dispatchMouseEvent':
        return this.mouse(params, at);
      case 'Input.dispatchTouchEvent':
        return this.touch(params, at);
      case 'Input.dispatchKeyEvent':
        return this.key(params, at);
      case 'Input.insertText':
        return this.types(
          at,
          [...text(params.text)].flatMap((value) => [
            { type: 'keyDown', value },
            { type: 'keyUp', value },
          ]),
        );
    }
  }

  /** Something else was done: what is open is over. */
  over(at: number): void {
    const { open } = this;
    this.open = undefined;
    if (open?.kind === 'hover') this.done({ actions: [pointer([moveTo(open)])], at: open.at, until: open.at });
    else if (open?.kind === 'typing')
      this.done({ actions: [{ type: 'key', id: 'keys', actions: open.actions }], at: open.at, until: open.last });
    else if (open) this.pressed(open, at);
  }

  private mouse(params: Json, at: number): void {
    const point = { x: num(params.x), y: num(params.y) };
    switch (params.type) {
      case 'mouseMoved':
        if (this.open?.kind === 'press') this.open.moves.push(point);
        else {
          if (this.open?.kind === 'typing') this.over(at);
          this.open = { kind: 'hover', at, ...point };
        }
        return;
      case 'mousePressed': {
        const { open } = this;
        const before = open?.kind === 'hover' && near(open, point) ? open.at : undefined;
        if (before !== undefined) this.open = undefined;
        else this.over(at);
        this.open = {
          kind: 'press',
          at: before ?? at,
          moves: [point],
          button: buttons[text(params.button)] ?? 0,
          clicks: num(params.clickCount),
        };
        return;
      }
      case 'mouseReleased':
        if (this.open?.kind !== 'press') return;
        this.open.moves.push(point);
        this.over(at);
        return;
      case 'mouseWheel':
        this.over(at);
        this.done({
          actions: [
            {
              type: 'wheel',
              id: 'wheel',
              actions: [
                {
                  type: 'scroll',
                  ...point,
                  deltaX: num(params.deltaX),
                  deltaY: num(params.deltaY),
                  origin: 'viewport',
                },
              ],
            },
          ],
          at,
          until: at,
        });
    }
  }

  private touch(params: Json, at: number): void {
    const first = Array.isArray(params.touchPoints) ? (params.touchPoints[0] as Json | undefined) : undefined;
    if (params.type === 'touchStart' && first) {
      this.over(at);
      this.open = { kind: 'press', at, moves: [{ x: num(first.x), y: num(first.y) }], button: 0, clicks: 1 };
    } else if (params.type === 'touchMove' && first && this.open?.kind === 'press')
      this.open.moves.push({ x: num(first.x), y: num(first.y) });
    else if (params.type === 'touchEnd' && this.open?.kind === 'press') this.over(at);
  }

  private pressed({ at, moves, button, clicks }: Pressing, until: number): void {
    const [first, ...rest] = moves;
    const way = rest.filter((one, i) => !near(one, i ? rest[i - 1]! : first!));
    // A second press in one event says how often: the first was told by itself.
    const again =
      clicks > 1 && way.length === 0
        ? [
            { type: 'pointerUp', button },
            { type: 'pointerDown', button },
          ]
        : [];
    this.done({
      actions: [
        pointer([
          moveTo(first!),
          { type: 'pointerDown', button },
          ...again,
          ...way.map(moveTo),
          { type: 'pointerUp', button },
        ]),
      ],
      at,
      until,
    });
  }

  private key(params: Json, at: number): void {
    const value = text(params.text) && text(params.text) !== '\r' ? text(params.text) : keyWritten(text(params.key));
    if (value === undefined) return;
    if (params.type === 'keyUp') {
      if (this.open?.kind === 'typing')
        this.types(at, [{ type: 'keyUp', value: keyWritten(text(params.key)) ?? value }]);
    } else if (params.type === 'char')
      this.types(at, [
        { type: 'keyDown', value },
        { type: 'keyUp', value },
      ]);
    // A key that goes down without a text is told its text by an event of its own, unless it has none.
    else if (params.type === 'keyDown' || keyWritten(text(params.key)) !== text(params.key))
      this.types(at, [{ type: 'keyDown', value }]);
  }

  private types(at: number, actions: Json[]): void {
    if (this.open?.kind === 'typing' && at - this.open.last <= typingGapMs) {
      this.open.last = at;
      this.open.actions.push(...actions);
      return;
    }
    this.over(at);
    this.open = { kind: 'typing', at, last: at, actions };
  }
}

const near = (a: { x: number; y: number }, b: { x: number; y: number }): boolean =>
  Math.abs(a.x - b.x) <= stillPx && Math.abs(a.y - b.y) <= stillPx;
