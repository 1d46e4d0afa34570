import { isModifier, keyWords } from './keys.ts';

type Json = Record<string, unknown>;
/** What of a value is a list of objects. */
export const listOf = (value: unknown): Json[] =>
  Array.isArray(value) ? value.filter((one): one is Json => one !== null && typeof one === 'object') : [];

/**
 * What the body of Perform Actions does, in words: keys by name; a pointer that presses, drags, hovers; a wheel that
 * scrolls. Empty where nothing of it can be read.
 * @param name how an element is called, by its id; nothing where it is not known
 */
export function actionWords(body: Json, name: (element: string) => string | undefined): string {
  return listOf(body.actions)
    .map((source) => sourceWords(source, name))
    .filter(Boolean)
    .join('; ');
}

function sourceWords(source: Json, name: (element: string) => string | undefined): string {
  const actions = listOf(source.actions);
  if (source.type === 'key') {
    // A modifier that goes up again is told by its second mention.
    const typed = actions.flatMap(({ type, value }) =>
      typeof value === 'string' && (type === 'keyDown' || (type === 'keyUp' && isModifier(value))) ? [value] : [],
    );
    return typed.length ? `Press ${keyWords(typed.join(''))}` : '';
  }
  if (source.type === 'wheel') {
    const scroll = actions.find(({ type }) => type === 'scroll');
    return scroll
      ? `Scroll by ${numberOf(scroll.deltaX)}, ${numberOf(scroll.deltaY)}${whereOf(scroll, name, ' on ')}`
      : '';
  }
  return source.type === 'pointer' ? pointerWords(actions, name) : '';
}

function pointerWords(actions: readonly Json[], name: (element: string) => string | undefined): string {
  const downs = actions.filter(({ type }) => type === 'pointerDown');
  const moves = actions.filter(({ type }) => type === 'pointerMove');
  const last = moves.at(-1);
  if (downs.length === 0) return last ? `Hover${whereOf(last, name, ' over ')}` : '';
  const down = actions.indexOf(downs[0]!);
  const before = actions.slice(0, down).findLast(({ type }) => type === 'pointerMove');
  const up = actions.findIndex(({ type }, i) => i > down && type === 'pointerUp');
  const during = actions.slice(down, up < 0 ? undefined : up).findLast(({ type }) => type === 'pointerMove');
  if (during) return `Drag${before ? whereOf(before, name, ' ') : ''}${whereOf(during, name, ' to ')}`;
  const button =
    downs[0]!.button === 2 ? ' with the right button' : downs[0]!.button === 1 ? ' with the middle button' : '';
  return `Press${before ? whereOf(before, name, ' on ') : ''}${button}${downs.length > 1 ? ` ×${downs.length}` : ''}`;
}

/** The key under which WebDriver hands out element ids. */
export const elementKey = 'element-6066-11e4-a52e-4f735466cecf';
const numberOf = (value: unknown): number => (typeof value === 'number' ? Math.round(value) : 0);

function whereOf(action: Json, name: (element: string) => string | undefined, word: string): string {
  const origin = action.origin as Json | string | undefined;
  const id = typeof origin === 'object' ? origin?.[elementKey] : undefined;
  if (typeof id === 'string') return `${word}${name(id) ?? 'an element'}`;
  const [x, y] = [numberOf(action.x), numberOf(action.y)];
  if (origin === 'pointer') return `${word}${x}, ${y} further`;
  return `${word}${x}, ${y}`;
}
