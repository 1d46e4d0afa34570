import { createHash } from 'node:crypto';
import { byScript } from '../../core/evidence/locator.ts';
import { elementKey } from '../recording/commands.ts';
import type { ClientElements } from './client-elements.ts';
import { expressionBody, functionBody, inlineLookOf, lookPathOf } from '../recording/scripts-of-clients.ts';

type Json = Record<string, unknown>;

/** A command of a DevTools client in the words of WebDriver: the recorder knows one language. */
export interface Said {
  method: 'GET' | 'POST' | 'DELETE';
  path: string;
  body: Json;
  /** What the browser's answer is there. */
  answer: (result: Json) => unknown;
  /** What is done with what was found, by the same command. */
  then?: Said;
}

/** A source longer than this is a tool of the client's own, put into the page; not a step of the test. */
const longestScript = 20_000;

const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const nothing = (): null => null;
const nodeName = (nodeId: unknown): string => `n${String(nodeId)}`;
export const failed = (error: string, message: string): Json => ({ error, message });

/** One call of `document.querySelector`, as most clients look for elements. */
const query = /^\(?(?:window\.)?document\.querySelector(All)?\(\s*(["'`])((?:\\.|(?!\2)[^\\]){1,400})\2\s*\)\)?;?$/;
const unescaped = (written: string): string => written.replace(/\\(.)/g, '$1');

/**
 * What a DevTools command is in WebDriver; nothing for what is no step of a test. Input is joined elsewhere.
 * @param elements those that the client holds of this page
 */
export function saidByWebDriver(method: string, params: Json, elements?: Pick<ClientElements, 'of'>): Said | undefined {
  switch (method) {
    case 'Page.navigate':
      return {
        method: 'POST',
        path: '/url',
        body: { url: text(params.url) },
        answer: ({ errorText }) => (errorText ? failed('unknown error', text(errorText)) : null),
      };
    case 'Page.reload':
      return { method: 'POST', path: '/refresh', body: {}, answer: nothing };
    case 'Page.navigateToHistoryEntry':
      return { method: 'POST', path: '/back', body: {}, answer: nothing };
    case 'Page.captureScreenshot':
      return {
        method: 'GET',
        path: '/screenshot',
        body: {},
        answer: ({ data }) => (params.format === undefined || params.format === 'png' ? text(data) : null),
      };
    case 'Page.handleJavaScriptDialog':
      return { method: 'POST', path: params.accept ? '/alert/accept' : '/alert/dismiss', body: {}, answer: nothing };
    case 'Page.close':
      return { method: 'DELETE', path: '/window', body: {}, answer: nothing };
    case 'Runtime.evaluate':
      return evaluated(text(params.expression));
    case 'Runtime.callFunctionOn':
      return called(text(params.functionDeclaration), params, elements);
    case 'DOM.querySelector':
      return found(text(params.selector), ({ nodeId }) => (nodeId ? [nodeName(nodeId)] : []), false);
    case 'DOM.querySelectorAll':
      return found(text(params.selector), ({ nodeIds }) => (Array.isArray(nodeIds) ? nodeIds.map(nodeName) : []), true);
    case 'DOM.setFileInputFiles': {
      const files = Array.isArray(params.files) ? params.files.map(text) : [];
      return { method: 'POST', path: '/element/files/value', body: { text: files.join('\n') }, answer: nothing };
    }
    case 'Emulation.setDeviceMetricsOverride': {
      const { width, height } = params;
      if (!width || !height) return undefined;
      return { method: 'POST', path: '/window/rect', body: { width, height }, answer: () => ({ width, height }) };
    }
    case 'Network.setCookie':
      return { method: 'POST', path: '/cookie', body: { cookie: { name: text(params.name) } }, answer: nothing };
    default:
      return undefined;
  }
}

function evaluated(expression: string): Said | undefined {
  if (expression.length > longestScript) return undefined;
  const asked = query.exec(expression.trim());
  if (asked) {
    const many = Boolean(asked[1]);
    return found(unescaped(asked[3]!), (result) => handlesOf(result, many), many);
  }
  const look = inlineLookOf(expression);
  if (look) return lookedUp(look);
  return script(expressionBody(expression), []);
}

/** A name for an element that is handed out under none: always the same for a selector. */
export const namedAfter = (selector: string): string =>
  `q${createHash('sha256').update(selector).digest('hex').slice(0, 12)}`;

/** An element that is looked up and read in one: it is found, then read. */
function lookedUp({ selector, look }: { selector: string; look: string }): Said {
  const name = namedAfter(selector);
  const none = ({ exceptionDetails, result }: Json): boolean =>
    exceptionDetails !== undefined || (result as Json | undefined)?.type === 'undefined';
  return {
    ...located('css selector', selector, (result) => (none(result) ? [] : [name]), false),
    then: { ...script('', []), method: 'GET', path: `/element/${name}/${look}`, body: {} },
  };
}

function called(source: string, params: Json, elements?: Pick<ClientElements, 'of'>): Said | undefined {
  if (source.length > longestScript) return undefined;
  const own = elements?.of(params);
  const given = Array.isArray(params.arguments) ? (params.arguments as Json[]) : [];
  const args = given.map((one) => {
    const element = elements?.of(one);
    return element === undefined ? (one?.value ?? one?.unserializableValue ?? null) : { [elementKey]: element };
  });
  const path = lookPathOf(
    source,
    own,
    given.map((one) => elements?.of(one)),
  );
  if (path !== undefined) return { ...script('', []), method: 'GET', path, body: {} };
  const all = own === undefined ? args : [{ [elementKey]: own }, ...args];
  return script(functionBody(source, own !== undefined), all);
}

export const script = (source: string, args: unknown[]): Said => ({
  method: 'POST',
  path: '/execute/sync',
  body: { script: source, args },
  answer: ({ exceptionDetails, result }) => {
    const thrown = exceptionDetails as { exception?: Json; text?: unknown } | undefined;
    if (thrown) return failed('javascript error', text(thrown.exception?.description) || text(thrown.text));
    const { value, description, unserializableValue } = (result ?? {}) as Json;
    return value ?? unserializableValue ?? (description === undefined ? null : text(description));
  },
});

/** How many members a list has, as the browser describes it: `Array(5)`. */
export const lengthOf = (description: unknown): number => Number(/\((\d{1,6})\)/.exec(text(description))?.[1] ?? 0);

/** Names of the members of a list, by their place in it. */
export const membersOf = (list: string, count: number): string[] =>
  Array.from({ length: count }, (_, i) => `${list}.${i}`);

/** The elements that an answer hands out: by the number of the node, or by the name of the object. */
function handlesOf({ result }: Json, many: boolean): unknown[] {
  const { objectId, subtype, description } = (result ?? {}) as Json;
  if (many) {
    return membersOf(text(objectId), lengthOf(description));
  }
  return subtype === 'null' || objectId === undefined ? [] : [objectId];
}

/** A shorter expression may be a test's own. */
const shortestTool = 2000;

/** Whether an expression put a tool of the client's into the page: a long one whose worth the client keeps for itself. */
export function isTool(method: string, params: Json, answer: Json): boolean {
  if (method !== 'Runtime.evaluate' || params.returnByValue === true) return false;
  const { type, subtype, objectId } = (answer.result ?? {}) as Json;
  const keeps = type === 'object' && subtype === undefined && objectId !== undefined;
  return keeps && text(params.expression).length > shortestTool;
}

/** A longer script is no name for an element. */
const longestLocator = 2000;
const looksForElements = /\b(?:querySelector|getElement|elementFromPoint|evaluate)\w*\(/;

/**
 * A script that handed out an element found it: it is located by that script. One that looks for an element and has none
 * to give found nothing.
 * @returns undefined for a script that answers a value
 */
export function handedOut({ path, body }: Said, params: Json, answer: Json): Said | undefined {
  const source = text(body.script);
  if (path !== '/execute/sync' || params.returnByValue === true || (body.args as unknown[]).length) return undefined;
  if (source.length > longestLocator) return undefined;
  const { subtype, objectId } = (answer.result ?? {}) as Json;
  const none = subtype === 'null' && looksForElements.test(source);
  if (!none && (subtype !== 'node' || objectId === undefined)) return undefined;
  return located(byScript, source, (result) => handlesOf(result, false), false);
}

function found(selector: string, nodes: (result: Json) => unknown[], many: boolean): Said | undefined {
  return selector ? located('css selector', selector, nodes, many) : undefined;
}

export function located(using: string, value: string, nodes: (result: Json) => unknown[], many: boolean): Said {
  return {
    method: 'POST',
    path: many ? '/elements' : '/element',
    body: { using, value },
    answer: (result) => {
      const elements = nodes(result).flatMap((node) => (node ? [{ [elementKey]: `${node as string | number}` }] : []));
      if (many) return elements;
      return elements[0] ?? failed('no such element', `nothing matches ${value}`);
    },
  };
}
