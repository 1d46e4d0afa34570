import { elementKey } from './commands.ts';
import { expressionBody, functionBody, lookPathOf } from './scripts-of-clients.ts';

type Json = Record<string, unknown>;

/** A BiDi command in the words of the command protocol: the recorder knows one language. */
export interface SaidByBidi {
  method: 'GET' | 'POST' | 'DELETE';
  path: string;
  body: Json;
  /** The browsing context it is about, where it names one. */
  context?: string;
  /** What the browser's answer is there. */
  answer: (result: Json) => unknown;
}

/** A source longer than this is a tool of the client's own, put into the page; not a step of the test. */
const longestScript = 20_000;
const longestRead = 2000;
const deepestValue = 6;

const text = (value: unknown): string => (typeof value === 'string' ? value : '');
const nothing = (): null => null;
const isObject = (value: unknown): value is Json => value !== null && typeof value === 'object';

/**
 * What a BiDi command is in the command protocol; nothing for what is no step of a test, and for what is not formed as the
 * specification has it.
 */
export function saidByBidi(method: string, params: Json): SaidByBidi | undefined {
  const context = text(params.context) || undefined;
  const said = (
    verb: SaidByBidi['method'],
    path: string,
    body: Json = {},
    answer: SaidByBidi['answer'] = nothing,
  ): SaidByBidi => ({ method: verb, path, body, answer, ...(context ? { context } : {}) });
  switch (method) {
    case 'browsingContext.navigate':
      return said('POST', '/url', { url: text(params.url) });
    case 'browsingContext.reload':
      return said('POST', '/refresh');
    case 'browsingContext.traverseHistory':
      return said('POST', Number(params.delta) < 0 ? '/back' : '/forward');
    case 'browsingContext.captureScreenshot': {
      const format = isObject(params.format) ? text(params.format.type) : 'image/png';
      return said('GET', '/screenshot', {}, ({ data }) => (format === 'image/png' ? text(data) : null));
    }
    case 'browsingContext.handleUserPrompt':
      return said('POST', params.accept === false ? '/alert/dismiss' : '/alert/accept');
    case 'browsingContext.create':
      // Its answer names the window; the one it is asked of does not matter.
      return {
        method: 'POST',
        path: '/window/new',
        body: { type: text(params.type) },
        answer: (result) => ({ handle: text(result.context), type: text(params.type) }),
      };
    case 'browsingContext.close':
      return said('DELETE', '/window', {}, () => []);
    case 'browsingContext.setViewport': {
      const { width, height } = isObject(params.viewport) ? params.viewport : {};
      if (!width || !height) return undefined;
      return said('POST', '/window/rect', { width, height }, () => ({ width, height }));
    }
    case 'browsingContext.locateNodes':
      return located(params, said);
    case 'input.performActions':
      return said('POST', '/actions', { actions: withElements(params.actions) });
    case 'input.releaseActions':
      return said('DELETE', '/actions');
    case 'input.setFiles': {
      const files = Array.isArray(params.files) ? params.files.map(text) : [];
      return said('POST', `/element/${elementOf(params.element) ?? 'files'}/value`, { text: files.join('\n') });
    }
    case 'script.evaluate':
      return script(params, text(params.expression), expressionBody, [], said);
    case 'script.callFunction':
      return called(params, text(params.functionDeclaration), said);
    case 'storage.setCookie':
      return said('POST', '/cookie', { cookie: { name: isObject(params.cookie) ? text(params.cookie.name) : '' } });
    case 'storage.deleteCookies':
      return said('DELETE', '/cookie');
    default:
      return undefined;
  }
}

type Saying = (method: SaidByBidi['method'], path: string, body?: Json, answer?: SaidByBidi['answer']) => SaidByBidi;

/** Strategies of both protocols; what people see of an element is looked up by an XPath that says the same. */
function located(params: Json, said: Saying): SaidByBidi | undefined {
  if (!isObject(params.locator)) return undefined;
  const { type, value } = params.locator;
  const asked =
    type === 'css'
      ? { using: 'css selector', value: text(value) }
      : type === 'xpath'
        ? { using: 'xpath', value: text(value) }
        : type === 'innerText'
          ? { using: 'xpath', value: `//*[normalize-space()=${xpathText(text(value))}]` }
          : undefined;
  if (!asked) return undefined;
  const one = params.maxNodeCount === 1;
  const [start] = Array.isArray(params.startNodes) ? params.startNodes : [];
  const within = elementOf(start);
  const path = `${within ? `/element/${within}` : ''}/${one ? 'element' : 'elements'}`;
  return said('POST', path, asked, ({ nodes }) => {
    const found = Array.isArray(nodes)
      ? nodes.flatMap((node) => (elementOf(node) ? [{ [elementKey]: elementOf(node) }] : []))
      : [];
    return one ? (found[0] ?? { error: 'no such element', message: `nothing matches ${asked.value}` }) : found;
  });
}

/** A text as XPath 1.0 writes it, which knows no escapes. */
const xpathText = (value: string): string =>
  !value.includes('"')
    ? `"${value}"`
    : !value.includes("'")
      ? `'${value}'`
      : `concat(${value
          .split('"')
          .map((part) => `"${part}"`)
          .join(`, '"', `)})`;

/** A function that is called: on an element, or with values and elements. One that only reads an element is that read. */
function called(params: Json, source: string, said: Saying): SaidByBidi | undefined {
  const given = Array.isArray(params.arguments) ? (params.arguments as unknown[]) : [];
  const own = elementOf(params.this);
  const path = lookPathOf(source, own, given.map(elementOf));
  const args = given.map((one) => plainValue(one));
  const all = own === undefined ? args : [{ [elementKey]: own }, ...args];
  const made = script(params, source, (text) => functionBody(text, own !== undefined), all, said);
  return made && path !== undefined ? { ...made, method: 'GET', path, body: {} } : made;
}

function script(
  params: Json,
  source: string,
  bodyOf: (source: string) => string,
  args: unknown[],
  said: Saying,
): SaidByBidi | undefined {
  if (!source || source.length > longestScript) return undefined;
  const target = isObject(params.target) ? params.target : {};
  // A longer one is no line of a test, and would take its time to be read.
  const body = source.length <= longestRead ? bodyOf(source) : source;
  const made = said('POST', '/execute/sync', { script: body, args }, (result) => {
    if (result.type !== 'exception') return plainValue(result.result);
    const thrown = isObject(result.exceptionDetails) ? result.exceptionDetails : {};
    return { error: 'javascript error', message: text(thrown.text) };
  });
  const context = text(target.context);
  return context ? { ...made, context } : made;
}

const elementOf = (value: unknown): string | undefined =>
  isObject(value) && typeof value.sharedId === 'string' && value.sharedId ? value.sharedId : undefined;

/** Actions, with elements as the command protocol names them. */
function withElements(actions: unknown): unknown {
  if (Array.isArray(actions)) return actions.map(withElements);
  if (!isObject(actions)) return actions;
  const element = actions.type === 'element' ? elementOf(actions.element) : undefined;
  if (element) return { [elementKey]: element };
  return Object.fromEntries(Object.entries(actions).map(([key, value]) => [key, withElements(value)]));
}

/** A value of the page, or one given to it, as JSON; elements as the command protocol has them. */
export function plainValue(value: unknown, depth = 0): unknown {
  if (!isObject(value) || depth > deepestValue) return null;
  const element = elementOf(value);
  if (element) return { [elementKey]: element };
  const held = value.value;
  switch (value.type) {
    case 'string':
    case 'number':
    case 'boolean':
    case 'bigint':
    case 'date':
      return held ?? null;
    case 'array':
    case 'set':
    case 'nodelist':
    case 'htmlcollection':
      return Array.isArray(held) ? held.map((one) => plainValue(one, depth + 1)) : [];
    case 'object':
    case 'map':
      return Array.isArray(held)
        ? Object.fromEntries(
            held.flatMap((pair): [string, unknown][] => {
              if (!Array.isArray(pair)) return [];
              const [key, one] = pair as [unknown, unknown];
              return [[typeof key === 'string' ? key : JSON.stringify(plainValue(key)), plainValue(one, depth + 1)]];
            }),
          )
        : {};
    case 'regexp':
      return isObject(held) ? `/${text(held.pattern)}/${text(held.flags)}` : null;
    case 'window':
      return isObject(held) ? text(held.context) : null;
    default:
      return null;
  }
}
