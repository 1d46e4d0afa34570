import { elementKey } from '../recording/commands.ts';
import { expressionBody, functionBody, lookPathOf } from '../recording/scripts-of-clients.ts';
import {
  carriedBy,
  isFunction,
  readBy,
  soughtAs,
  unpacked,
  writesElement,
  type Carried,
  type Sought,
} from './carried.ts';
import type { ClientElements } from './client-elements.ts';
import { lengthOf, located, membersOf, namedAfter, script, type Said } from './said-by-webdriver.ts';

type Json = Record<string, unknown>;

/** A find that goes on: what it handed back holds the element, and is asked for it. */
interface Finding {
  sought: Sought | undefined;
  within: string | undefined;
  at: number;
  /** How the client wrote the element down, where it did. */
  text: string;
  /** By which name the element was told of already. */
  told?: string;
  /** What is carried out goes on in the page, and is no find: a function of the test's. */
  runs?: string;
}

/** A call that was understood, with when it began. */
export interface Understood {
  said: Said;
  at: number;
}

/** Objects that are remembered; those handed out first are forgotten first. */
const mostKept = 2000;
const isObject = (value: unknown): value is Json => value !== null && typeof value === 'object';
const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const writes = (value: unknown): value is string => typeof value === 'string' && writesElement(value);

function keep<V>(map: Map<string, V>, key: string, value: V): void {
  map.set(key, value);
  if (map.size > mostKept) map.delete(map.keys().next().value!);
}

/** In which of a page's worlds an object lives: the browser writes its number into the name. */
const worldOf = (objectId: unknown): string | undefined =>
  typeof objectId === 'string' ? /^-?\d+\.(\d+)\.\d+$/.exec(objectId)?.[1] : undefined;

/** One word that says that something could not be done. */
const refusal = /^(?=[\w:.-]{4,60}$).*(?:err|fail|not|detach|gone|stale)/i;

/**
 * What a client with layers of its own does on one page, understood from what its calls carry and hand back. Its own work it
 * does in a world of its own; what a test asks for runs in the page's.
 */
export class CarriedCalls {
  /** Worlds apart from the page's, by number. */
  private readonly apart = new Set<string>();
  private readonly finding = new Map<string, Finding>();

  /** A world of the page is there. */
  world(id: unknown, isApart: boolean): void {
    if (isApart) this.apart.add(String(id));
    else this.apart.delete(String(id));
  }

  /** Whether a call is one that carries another. */
  reads(method: string, params: Json): Carried | undefined {
    return method === 'Runtime.callFunctionOn' ? carriedBy(params) : undefined;
  }

  /** The element that a call of the client's own may do something to: it is given one. */
  workedOn({ objects }: Carried, params: Json, elements: ClientElements): string | undefined {
    if (!this.isApart(params)) return undefined;
    return objects.map((one) => elements.of({ objectId: one })).find((one) => one !== undefined);
  }

  /** Whether a call is in a world of the client's own. */
  private isApart(params: Json): boolean {
    const world = worldOf(params.objectId) ?? (params.executionContextId as number | undefined);
    return world !== undefined && this.apart.has(String(world));
  }

  /**
   * What a carried call was in the words of WebDriver, once it is answered.
   * @returns nothing for the client's own plumbing
   */
  answered(carried: Carried, params: Json, answer: Json, elements: ClientElements, at: number): Understood | undefined {
    const result = (isObject(answer.result) ? answer.result : {}) as Json;
    const spoken = carried.objects.map((one) => elements.of({ objectId: one })).filter((one) => one !== undefined);
    const value = unpacked(result.value);
    const own = carried.objects.flatMap((one) => this.finding.get(one) ?? [])[0];
    if (own) return this.goesOn(own, carried, answer, value, elements);
    if (carried.source === '') return undefined;
    if (!this.isApart(params)) return this.asked(carried, answer, value, spoken, at);
    if (result.subtype === 'node') return this.found(findingOf(carried, spoken[0], at), result);
    if (answer.exceptionDetails !== undefined) return undefined;
    const { sought } = carried;
    if (carried.byHandle && sought) {
      if (result.subtype === 'array')
        return { said: many(sought, text(result.objectId), lengthOf(result.description)), at };
      // It asked for something to hold, and was given a word: there is none.
      if (result.objectId === undefined)
        return {
          said: asksForAll(carried) ? many(sought, 'none', 0) : find(findingOf(carried, spoken[0], at), undefined),
          at,
        };
      keep(this.finding, String(result.objectId), findingOf(carried, spoken[0], at));
      return undefined;
    }
    const read = this.read(carried, value, spoken, at);
    // What was neither read nor written down was done: keys may follow that are for it.
    if (!read && spoken.length === 1 && !writes(value)) elements.speaksOf(spoken[0]!, at);
    return read;
  }

  /** What was handed back is asked for its element, for what the client logs, or for what a test's function came to. */
  private goesOn(
    own: Finding,
    { objects }: Carried,
    answer: Json,
    value: unknown,
    elements: ClientElements,
  ): Understood | undefined {
    const result = (isObject(answer.result) ? answer.result : {}) as Json;
    if (own.runs !== undefined) {
      this.finding.delete(objects.find((one) => this.finding.get(one) === own)!);
      return { said: scriptOf(own.runs, [], answer, value), at: own.at };
    }
    if (result.subtype === 'node') {
      if (own.told === undefined) return this.found(own, result);
      elements.hand(text(result.objectId), own.told);
      return undefined;
    }
    if (result.subtype === 'null') return { said: find(own, undefined), at: own.at };
    own.text = Object.values(isObject(value) ? value : {}).find(writes) ?? own.text;
    // It says that there is one; whether it is asked for is another matter.
    if (own.told !== undefined || !own.text) return undefined;
    own.told = objects.find((one) => this.finding.get(one) === own)!;
    return this.found(own, { objectId: own.told });
  }

  private found(finding: Finding, { objectId, description }: Json): Understood | undefined {
    const sought = finding.sought ?? soughtAs(text(description), finding.text);
    if (!sought) return undefined;
    return { said: find({ ...finding, sought }, String(objectId)), at: finding.at };
  }

  /** A test's own function, in the page's world. */
  private asked(carried: Carried, answer: Json, value: unknown, spoken: string[], at: number): Understood | undefined {
    const { source, data, byHandle } = carried;
    const result = (isObject(answer.result) ? answer.result : {}) as Json;
    // It writes an element down for its log.
    const isOfOne = spoken.length > 0 || carried.objects.length > 1;
    if (writes(value) && isOfOne && !/(?:outer|inner)HTML/.test(source)) return undefined;
    // What a test's own function hands out is found by it.
    if (byHandle && result.subtype === 'node' && soughtAs(text(result.description)))
      return this.found({ sought: undefined, within: undefined, at, text: '' }, result);
    const look = lookPathOf(source, undefined, spoken);
    if (look) return { said: { method: 'GET', path: look, body: {}, answer: () => value ?? null }, at };
    const runs = carried.texts.find(isFunction) ?? carried.texts.find((one) => one.length > 8);
    if (byHandle && result.type === 'object' && result.subtype === undefined && runs !== undefined) {
      // It goes on in the page; what it comes to is asked for.
      keep(this.finding, text(result.objectId), { sought: undefined, within: undefined, at, text: '', runs });
      return undefined;
    }
    const args = [
      ...spoken.map((one) => ({ [elementKey]: one })),
      ...data.filter((one) => Array.isArray(one) || isObject(one)).slice(0, 3),
    ];
    return { said: scriptOf(source, args, answer, value), at };
  }

  private read(carried: Carried, value: unknown, spoken: string[], at: number): Understood | undefined {
    const [inner, text = ''] = readIn(value);
    const { sought, source } = carried;
    // A word that stands in the function itself is a sign among its own.
    const isSign = typeof inner === 'string' && inner.length > 3 && source.includes(inner);
    if (isSign) return sought ? { said: find(findingOf(carried, spoken[0], at), undefined), at } : undefined;
    if (typeof inner === 'number' && sought && spoken.length === 0) {
      return { said: many(sought, namedAfter(sought.value), inner), at };
    }
    const end = readBy(carried, inner);
    if (end === undefined) {
      // It was not as the client wants it before it presses or types: a look, and the message says what for.
      const isRefused = spoken.length === 1 && typeof inner === 'string' && refusal.test(inner);
      return isRefused
        ? { said: { method: 'GET', path: `/element/${spoken[0]!}/rect`, body: {}, answer: () => null }, at }
        : undefined;
    }
    const answer = (): unknown => inner;
    if (spoken.length) return { said: { method: 'GET', path: `/element/${spoken[0]!}/${end}`, body: {}, answer }, at };
    const looked = sought ?? soughtAs('', text);
    if (!looked) return undefined;
    const name = namedAfter(looked.value);
    const then: Said = { method: 'GET', path: `/element/${name}/${end}`, body: {}, answer };
    return { said: { ...find({ sought: looked, within: undefined, at, text }, name), then }, at };
  }
}

/**
 * Whether a function asks for all elements of a kind and not for the first: where there are none, both are answered alike.
 * What is carried by what is carried decides, where there is such.
 */
function asksForAll({ source, texts }: Carried): boolean {
  const inner = texts.filter(isFunction);
  const all = inner.length ? inner.join('\n') : source;
  return !/\[0\]|\.at\(0\)|\bquerySelector\(|\bfirst\b|\bfind\(/i.test(all);
}

const findingOf = ({ sought }: Carried, within: string | undefined, at: number): Finding => ({
  sought,
  within,
  at,
  text: '',
});

/** What was read, where it comes alone or in an object with what the client logs. */
function readIn(value: unknown, depth = 0): [unknown, string?] {
  if (!isObject(value) || Array.isArray(value) || depth > 3) return [value];
  const entries = Object.entries(value);
  const log = entries.map(([, one]) => one).find(writes);
  for (const [, one] of entries) if (isObject(one) && !Array.isArray(one)) return [readIn(one, depth + 1)[0], log];
  const rest = entries.filter(([, one]) => one !== log);
  // A state is told with what it was made of.
  const states = rest.filter(([, one]) => typeof one === 'boolean');
  if (depth > 0 && states.length === 1) return [states[0]![1], log];
  return rest.length === 1 ? [rest[0]![1], log] : [value, log];
}

const unknown: Sought = { using: 'css selector', value: 'element' };

function find({ sought, within }: Finding, name: string | undefined): Said {
  // Of what was never found nobody wrote down what it is.
  const { using, value } = sought ?? unknown;
  const said = located(using, value, () => (name === undefined ? [] : [name]), false);
  return within === undefined ? said : { ...said, path: `/element/${within}/element` };
}

/** Of a longer list no more members are named. */
const mostMembers = 1000;

/** @param list the name of the list: its members are named by their place in it */
const many = ({ using, value }: Sought, list: string, count: number): Said =>
  located(using, value, () => membersOf(list, Math.min(count, mostMembers)), true);

/** A function or expression of a test's, as the script it is in WebDriver. @param value what came back, unpacked */
function scriptOf(source: string, args: unknown[], { result, exceptionDetails }: Json, value: unknown): Said {
  const said = script(isFunction(source) ? functionBody(source, false) : expressionBody(source), args);
  return {
    ...said,
    answer: () => said.answer({ exceptionDetails, result: { ...(isObject(result) ? result : {}), value } }),
  };
}
