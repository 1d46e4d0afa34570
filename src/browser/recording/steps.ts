import type { KnownElement, Locator, StepData } from '../../core/evidence/event.ts';
import { otherCommand } from '../../core/evidence/command-names.ts';
import { actionWords } from '../../core/evidence/action-words.ts';
import { holdsKeys, isModifier, keysWritten } from '../../core/evidence/keys.ts';
import { quote, shorten, stepLabel } from '../../core/evidence/labels.ts';
import { locatorText } from '../../core/evidence/locator.ts';
import { maskMark } from '../../core/evidence/masking.ts';
import { withoutCookieValues } from './cookies.ts';
import { elementKey, type CommandCall } from './commands.ts';

type Json = Record<string, unknown>;

const longest = 2000;

/** Masks a text and cuts it to a length: a secret that stands across the cut would be left by half. */
export type Mask = (text: string, length: number) => string;

/** Shortens long texts anywhere in a value, so that one page source does not fill the store. */
export function trimmed(value: unknown, mask: Mask): unknown {
  const cut = (text: string): string => `${mask(text, longest)}… (${text.length} characters)`;
  if (typeof value === 'string') return value.length > longest ? cut(value) : value;
  if (value && typeof value === 'object') {
    const text = JSON.stringify(value);
    return text.length > longest ? cut(text) : value;
  }
  return value;
}

/** Anything a client may send where a text belongs, as one. */
export function textOf(value: unknown): string {
  if (typeof value === 'string') return value;
  if (value === undefined || value === null) return '';
  return typeof value === 'object' ? (JSON.stringify(value) ?? '') : `${value as number | boolean | bigint}`;
}

/** The locator in the body of a find. */
export function locatorOf(body: Json, within?: Locator): Locator | undefined {
  if (typeof body.using !== 'string' || typeof body.value !== 'string') return undefined;
  return { using: body.using, value: body.value, ...(within ? { within } : {}) };
}

/** What a command asked, as a step; its answer is added by `answerStep`. */
export function askedStep(
  call: CommandCall,
  body: Json,
  elements: ReadonlyMap<string, KnownElement>,
  mask: Mask,
): StepData {
  const { command, element, key } = call;
  const known = element ? elements.get(element) : undefined;
  const data: StepData = {
    command: command.name,
    action: command.action,
    label: command.name === otherCommand ? command.subject! : command.name,
  };
  if (command.subject) data.subject = key ? `${command.subject} ${key}` : command.subject;
  if (element) data.element = element;
  if (known && command.action !== 'find') {
    data.locator = known.locator;
    data.foundBy = known.foundBy;
  }
  if (command.action === 'find') {
    const locator = locatorOf(body, known?.locator);
    if (locator) data.locator = locator;
  }
  fillInput(data, call, body, elements, mask);
  data.label = stepLabel(data);
  return data;
}

function fillInput(
  data: StepData,
  call: CommandCall,
  body: Json,
  elements: ReadonlyMap<string, KnownElement>,
  mask: Mask,
): void {
  switch (call.command.name) {
    case 'navigate to':
      data.input = textOf(body.url);
      break;
    case 'element send keys':
      data.input =
        typeof body.text === 'string' ? body.text : Array.isArray(body.value) ? body.value.map(textOf).join('') : '';
      break;
    case 'execute script':
    case 'execute async script':
      data.input = textOf(trimmed(body.script ?? '', mask));
      if (Array.isArray(body.args) && body.args.length) data.arguments = trimmed(body.args, mask);
      keepGiven(data, body.args, elements);
      aboutOne(data);
      break;
    case 'perform actions':
      data.input = JSON.stringify(trimmed(body, mask));
      data.label = actionLabel(body, elements);
      keepGiven(data, body.actions, elements);
      break;
    case 'set timeouts':
      for (const limit of ['implicit', 'pageLoad', 'script'] as const)
        if (typeof body[limit] === 'number') data[limit] = body[limit];
      data.label = 'Set timeouts';
      break;
    case 'switch to window':
      data.handle = textOf(body.handle ?? body.name);
      data.label = 'Look at another window';
      break;
    case 'switch to frame':
      switchedFrame(data, body.id, elements);
      break;
    case 'switch to parent frame':
      data.label = 'Look at the parent frame';
      break;
    case 'accept alert':
      data.label = 'Accept the dialog';
      break;
    case 'dismiss alert':
      data.label = 'Dismiss the dialog';
      break;
    case 'send alert text':
      data.input = textOf(body.text);
      data.label = 'Answer the dialog';
      break;
    case 'set window rect':
      data.label = 'Set the window size';
      data.input = JSON.stringify(body);
      break;
    case 'new window':
      data.label = body.type === 'window' ? 'Open a new window' : 'Open a new tab';
      data.input = textOf(body.type);
      break;
    case 'add cookie':
      data.input = textOf((body.cookie as Json | null | undefined)?.name);
      break;
    case 'delete cookie':
      data.input = call.key ?? '';
      break;
    case 'take screenshot':
    case 'take element screenshot':
      data.label = 'Take a screenshot';
      break;
    case 'back':
    case 'forward':
      data.label = `Go ${call.command.name}`;
      break;
    case 'refresh':
      data.label = 'Reload the page';
      break;
  }
}

const deepest = 6;

/** Keeps how elements were found that are handed back to the browser within a command. */
function keepGiven(data: StepData, value: unknown, elements: ReadonlyMap<string, KnownElement>, depth = 0): void {
  if (!value || typeof value !== 'object' || depth >= deepest) return;
  const id = (value as Json)[elementKey];
  const known = typeof id === 'string' ? elements.get(id) : undefined;
  if (known) (data.given ??= {})[id as string] = known;
  else for (const one of Object.values(value)) keepGiven(data, one, elements, depth + 1);
}

/** A script that is given one element is about that element. */
function aboutOne(data: StepData): void {
  const [[element, known] = [], second] = Object.entries(data.given ?? {});
  if (!known || second) return;
  data.element = element!;
  data.locator = known.locator;
  data.foundBy = known.foundBy;
}

/** What was done with keys and pointer, with elements by their locators; letters stay in the input, which is masked with care. */
function actionLabel(body: Json, elements: ReadonlyMap<string, KnownElement>): string {
  const words = actionWords(withoutLetters(body), (id) => {
    const known = elements.get(id);
    return known && quote(locatorText(known.locator));
  });
  return shorten(words || 'Perform actions', 90);
}

/** Letters pressed one by one may be a password: the label says only that there were some. Those of a chord it tells. */
function withoutLetters(body: Json): Json {
  const sources = Array.isArray(body.actions) ? (body.actions as unknown[]) : [];
  return {
    actions: sources.map((source) => {
      const { type, actions } = (source ?? {}) as { type?: unknown; actions?: unknown };
      if (type !== 'key' || !Array.isArray(actions)) return source;
      const held = new Set<string>();
      let letters = false;
      return {
        type,
        actions: (actions as unknown[]).flatMap((one) => {
          const action = (one ?? {}) as { type?: unknown; value?: unknown };
          if (typeof action.value !== 'string') return [one];
          if (isModifier(action.value) && !/shift/i.test(keysWritten(action.value))) {
            if (action.type === 'keyDown') held.add(action.value);
            else held.delete(action.value);
          }
          if (action.type !== 'keyDown' || held.size > 0 || holdsKeys(action.value)) return [one];
          if (letters) return [];
          letters = true;
          return [{ ...action, value: '…' }];
        }),
      };
    }),
  };
}

function switchedFrame(data: StepData, id: unknown, elements: ReadonlyMap<string, KnownElement>): void {
  if (id === null || id === undefined) {
    data.label = 'Look at the whole page';
    return;
  }
  data.label = 'Look into a frame';
  if (typeof id === 'number') {
    data.number = id;
    return;
  }
  const element = typeof id === 'object' ? (id as Json)[elementKey] : undefined;
  const known = typeof element === 'string' ? elements.get(element) : undefined;
  if (typeof element === 'string') data.element = element;
  if (known) {
    data.locator = known.locator;
    data.foundBy = known.foundBy;
  }
}

/** Cookies as a driver gives them, without what they hold. */
const withoutValues = (value: unknown): unknown =>
  Array.isArray(value)
    ? (value as unknown[]).map(withoutValues)
    : value !== null && typeof value === 'object' && 'value' in value
      ? { ...value, value: maskMark }
      : value;

/** Adds what came back, and remembers the elements it handed out. */
export function answerStep(
  data: StepData,
  step: string,
  answer: Json | undefined,
  elements: Map<string, KnownElement>,
  mask: Mask,
): void {
  const value = answer?.value as Json | unknown[] | string | null | undefined;
  if (value && typeof value === 'object' && !Array.isArray(value) && typeof value.error === 'string') {
    data.error = { code: value.error, message: textOf(value.message) };
    return;
  }
  if (data.action === 'find') {
    const ids = (Array.isArray(value) ? value : [value]).map((item) => (item as Json | null)?.[elementKey]);
    ids.forEach((id, index) => {
      if (typeof id !== 'string' || !data.locator) return;
      elements.set(id, { locator: index ? { ...data.locator, index } : data.locator, foundBy: step });
    });
    if (Array.isArray(value)) data.result = value.length;
    else if (typeof ids[0] === 'string') data.element = ids[0];
    return;
  }
  if (data.action === 'cookie') data.result = trimmed(withoutValues(value), mask);
  else if (data.action === 'script' && typeof value === 'string' && /\bcookie\b/.test(data.input ?? ''))
    data.result = trimmed(withoutCookieValues(value, maskMark), mask);
  else if (data.action === 'read' || data.action === 'script' || data.action === 'dialog')
    data.result = trimmed(value, mask);
}
