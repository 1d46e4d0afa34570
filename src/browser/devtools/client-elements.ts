import type { JoinedAct } from './input-joining.ts';

type Json = Record<string, unknown>;
interface Place {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** Elements of one page whose names are remembered; those handed out first are forgotten first. */
const mostKnown = 5000;
/** A press belongs to the element that was looked at no longer before, ms. */
const pressWithinMs = 3000;
/** Clients round, pages have fractions, px. */
const nearPx = 2;
/** Numbers of an answer that are read for places. */
const mostPlaces = 200;

const isObject = (value: unknown): value is Json => value !== null && typeof value === 'object';
const isNumber = (value: unknown): value is number => typeof value === 'number' && Number.isFinite(value);
const named = /^[\w.-]{1,100}$/;

/** The name that a DevTools command gives an element: of its object, its node, or its node in the browser. */
function nameOf(params: Json): string | undefined {
  const { objectId, nodeId, backendNodeId } = params;
  const name =
    typeof objectId === 'string'
      ? objectId
      : isNumber(nodeId)
        ? `n${nodeId}`
        : isNumber(backendNodeId)
          ? `b${backendNodeId}`
          : undefined;
  return name !== undefined && named.test(name) ? name : undefined;
}

/** Points, boxes and quads anywhere in an answer, in the order in which they stand there. */
function placesIn(value: unknown, into: Place[] = [], depth = 0): Place[] {
  if (!isObject(value) || depth > 6 || into.length >= mostPlaces) return into;
  if (Array.isArray(value)) {
    if (value.length === 8 && value.every(isNumber)) {
      const xs = value.filter((_, i) => i % 2 === 0);
      const ys = value.filter((_, i) => i % 2 === 1);
      into.push({ left: Math.min(...xs), right: Math.max(...xs), top: Math.min(...ys), bottom: Math.max(...ys) });
    } else for (const one of value) placesIn(one, into, depth + 1);
    return into;
  }
  const { x, y, width, height } = value;
  if (isNumber(x) && isNumber(y))
    into.push({
      left: x,
      top: y,
      right: x + (isNumber(width) ? width : 0),
      bottom: y + (isNumber(height) ? height : 0),
    });
  for (const one of Object.values(value)) placesIn(one, into, depth + 1);
  return into;
}

/**
 * The elements of one page that a DevTools client holds, and which of them it has just looked at: a press at a point that
 * was measured of an element is a press on it, and keys go to the one that was pressed or given the focus.
 */
export class ClientElements {
  /** By each name a client has for it: the element as it was first handed out. */
  private readonly known = new Map<string, string>();
  private looked: { element: string; places: Place[]; at: number } | undefined;
  private focused: string | undefined;
  private spoken: { element: string; at: number } | undefined;

  /** An element is handed out. @param same the name it had already, where it is the same */
  hand(name: string, same = name): void {
    if (!named.test(name)) return;
    this.known.set(name, this.known.get(same) ?? same);
    if (this.known.size > mostKnown) this.known.delete(this.known.keys().next().value!);
  }

  /** The element that a command is about, where it was handed out before. */
  of(params: unknown): string | undefined {
    const name = isObject(params) ? nameOf(params) : undefined;
    return name === undefined ? undefined : this.known.get(name);
  }

  /** The element that a call is made on, or is given first. */
  spokenOf(params: Json): string | undefined {
    return this.of(params) ?? (Array.isArray(params.arguments) ? this.of(params.arguments[0]) : undefined);
  }

  /** Other names of an element, and members of a list, as an answer tells them. */
  told(method: string, params: Json, result: Json, at: number): void {
    if (method === 'Runtime.getProperties' && Array.isArray(result.result)) {
      const list = this.of(params);
      for (const one of result.result as unknown[]) {
        if (list === undefined || !isObject(one) || !isObject(one.value)) continue;
        const { objectId } = one.value;
        if (typeof objectId === 'string' && /^\d{1,5}$/.test(String(one.name)))
          this.hand(objectId, `${list}.${String(one.name)}`);
      }
      return;
    }
    const element = this.of(params);
    if (element === undefined) return;
    const { node, object, nodeId } = result;
    for (const other of [node, object, { nodeId }]) {
      if (!isObject(other)) continue;
      for (const key of ['objectId', 'nodeId', 'backendNodeId']) {
        const name = nameOf({ [key]: other[key] });
        if (name !== undefined) this.hand(name, element);
      }
    }
    this.looks(element, result, at);
  }

  /** An answer said where an element is. */
  looks(element: string, answer: unknown, at: number): void {
    const places = placesIn(answer);
    if (places.length) this.looked = { element, places, at };
  }

  /** The client gave an element the focus. */
  focuses(element: string | undefined): void {
    this.focused = element;
  }

  /** The client did something with an element by itself: keys that follow at once are for that one. */
  speaksOf(element: string, at: number): void {
    this.spoken = { element, at };
  }

  /** Another page: nothing of it was looked at. */
  clear(): void {
    this.looked = undefined;
    this.focused = undefined;
    this.spoken = undefined;
  }

  /** An act of pointer or keys as it is said of an element; nothing where it is not known whose it was. */
  acted({ actions, at }: JoinedAct): { path: string; body: Json } | undefined {
    const [source] = actions;
    const list = Array.isArray(source?.actions) ? (source.actions as Json[]) : [];
    if (source?.type === 'pointer') {
      if (!list.some(({ type }) => type === 'pointerDown')) return undefined;
      const element = this.pressed(list, at);
      this.focused = element;
      this.spoken = undefined;
      return element === undefined ? undefined : { path: `/element/${element}/click`, body: {} };
    }
    const spoken = this.spoken && at - this.spoken.at < pressWithinMs ? this.spoken.element : undefined;
    if (spoken !== undefined) this.focused = spoken;
    if (source?.type !== 'key' || this.focused === undefined) return undefined;
    const text = textOf(list);
    if (text === undefined) return undefined;
    return { path: `/element/${this.focused}/value`, body: { text } };
  }

  private pressed(list: readonly Json[], at: number): string | undefined {
    const [move, down, up] = list;
    const { looked } = this;
    if (!looked || at - looked.at > pressWithinMs) return undefined;
    if (list.length !== 3 || down!.type !== 'pointerDown' || down!.button !== 0 || up!.type !== 'pointerUp')
      return undefined;
    const [x, y] = [Number(move!.x), Number(move!.y)];
    const inside = looked.places.some(
      ({ left, top, right, bottom }) =>
        x >= left - nearPx && x <= right + nearPx && y >= top - nearPx && y <= bottom + nearPx,
    );
    return inside ? looked.element : undefined;
  }
}

const isSpecial = (key: string): boolean => key >= '\uE000' && key <= '\uF8FF';
const shift = '\uE008';
/** Keys that end what is typed and are part of it. */
const closing: ReadonlySet<string> = new Set(['\uE006', '\uE007']);

/** Keys that change what is typed, and leave the focus where it is: backspace, delete, home, end, arrows. */
const editing: ReadonlySet<string> = new Set([
  '\uE003',
  '\uE017',
  '\uE010',
  '\uE011',
  '\uE012',
  '\uE013',
  '\uE014',
  '\uE015',
]);

/** What keys write one after the other; nothing where they are more than letters and what corrects them. */
function textOf(list: readonly Json[]): string | undefined {
  const keys = list.flatMap(({ type, value }) => (type === 'keyDown' && value !== shift ? [String(value)] : []));
  const plain = keys.every(
    (key, i) => !isSpecial(key) || editing.has(key) || (i > 0 && i === keys.length - 1 && closing.has(key)),
  );
  return plain && keys.some((key) => !isSpecial(key)) ? keys.join('') : undefined;
}
