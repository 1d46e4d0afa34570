type Json = Record<string, unknown>;

/** How an element is looked for. */
export interface Sought {
  using: 'css selector' | 'xpath';
  value: string;
}

/**
 * A call of a function of the client's own that only carries another: what is done stands in its arguments, as source and
 * data, packed as the client likes.
 */
export interface Carried {
  /** The function or expression that is carried; nothing where a thing is asked for what it holds. */
  source: string;
  /** All other sources and texts among the arguments, in their order. */
  texts: readonly string[];
  /** Names of the objects that are given, the one it is called on among them. */
  objects: readonly string[];
  /** Data that is given, unpacked. */
  data: readonly unknown[];
  sought: Sought | undefined;
  /** Whether what comes back is a name of it, not its value. */
  byHandle: boolean;
}

/** A carrier is short: longer functions do something themselves. */
const longestCarrier = 600;
const mostDepth = 14;
const mostTexts = 300;
const longestSelector = 600;

const isObject = (value: unknown): value is Json =>
  value !== null && typeof value === 'object' && !Array.isArray(value);
/** Whether a text is the source of a function. */
const functions =
  /^\s*(?:async\b\s*)?(?:function\b|\([^()]{0,300}(?:\([^()]{0,100}\)[^()]{0,100}){0,3}\)\s*=>|[\w$]{1,60}\s*=>)/;
export const isFunction = (source: string): boolean => functions.test(source);
/** Hands its arguments on to something: `(tool, ...args) => tool.run(...args)`, `function (f, a) { return eval(f)(a) }`. */
const handsOn = /\.\.\.\s*[\w$]+\s*\)|\beval\b|\bFunction\(|\.(?:apply|call)\(/;

/**
 * Data as it was before a client packed it so that it could be sent: lists of pairs are objects, a lone list beside a number
 * is that list, text that is JSON is what it says.
 */
export function unpacked(value: unknown, depth = 0): unknown {
  if (depth > mostDepth) return undefined;
  if (typeof value === 'string' && /^\s*[[{]/.test(value) && value.length < 200_000)
    try {
      return unpacked(JSON.parse(value), depth + 1);
    } catch {
      return value;
    }
  if (Array.isArray(value)) return pairs(value, depth) ?? value.map((one) => unpacked(one, depth + 1));
  if (!isObject(value)) return value;
  const entries = Object.entries(value);
  const lists = entries.filter(([, one]) => Array.isArray(one));
  // A number beside it tells one packed list from another.
  if (lists.length === 1 && entries.every(([, one]) => Array.isArray(one) || typeof one === 'number'))
    return unpacked(lists[0]![1], depth + 1);
  return Object.fromEntries(entries.map(([key, one]) => [key, unpacked(one, depth + 1)]));
}

/** A list of pairs of a name and a value, each written as an object of the same two keys. */
function pairs(list: readonly unknown[], depth: number): Json | undefined {
  const [first] = list;
  if (!isObject(first)) return undefined;
  const keys = Object.keys(first);
  if (keys.length !== 2) return undefined;
  const [name, held] = keys as [string, string];
  const names = new Set<unknown>();
  for (const one of list) {
    if (!isObject(one) || Object.keys(one).length !== 2 || typeof one[name] !== 'string' || !(held in one))
      return undefined;
    names.add(one[name]);
  }
  // Two plain texts may as well be what they are: a kind and its body.
  const texts = list.every((one) => typeof (one as Json)[held] === 'string');
  if (names.size !== list.length || name.length + held.length > 12 || (texts && name.length > 2)) return undefined;
  return Object.fromEntries(list.map((one) => [String((one as Json)[name]), unpacked((one as Json)[held], depth + 1)]));
}

function textsIn(value: unknown, into: string[], depth = 0): void {
  if (depth > mostDepth || into.length >= mostTexts) return;
  if (typeof value === 'string') into.push(value);
  else if (Array.isArray(value)) for (const one of value) textsIn(one, into, depth + 1);
  else if (isObject(value)) for (const one of Object.values(value)) textsIn(one, into, depth + 1);
}

/** What a `Runtime.callFunctionOn` carries; nothing for a call that is what it says. */
export function carriedBy(params: Json): Carried | undefined {
  const declared = String(params.functionDeclaration ?? '');
  const given = Array.isArray(params.arguments) ? (params.arguments as Json[]) : [];
  if (declared.length > longestCarrier || !handsOn.test(declared)) return undefined;
  const values = given.map((one) => (isObject(one) ? one.value : undefined));
  const at = values.findIndex((one) => typeof one === 'string' && isFunction(one));
  const plain = at < 0 ? values.findIndex((one) => typeof one === 'string' && one.length > 2) : at;
  const objects = new Set(
    [params, ...given].flatMap((one) => (isObject(one) && typeof one.objectId === 'string' ? [one.objectId] : [])),
  );
  // Without a source a tool of the client's own asks a thing for what it holds; alone it does nothing.
  if (plain < 0 && objects.size < 2) return undefined;
  const data = values.filter((one, i) => i !== plain && one !== undefined).map((one) => unpacked(one));
  const texts: string[] = [];
  textsIn(data, texts);
  return {
    source: plain < 0 ? '' : String(values[plain]),
    texts,
    objects: [...objects],
    data,
    sought: firstOf(data, 0),
    byHandle: params.returnByValue !== true,
  };
}

const kinds: Readonly<Record<string, Sought['using']>> = {
  css: 'css selector',
  'css selector': 'css selector',
  xpath: 'xpath',
};
const prefixed = /^\s*(css|xpath)\s*=\s*(.+)$/is;
const looksLikePath = /^\s*\(?\.{0,2}\/\/?[\w*@(]/;

function plainly(text: string): Sought | undefined {
  if (text.length > longestSelector) return undefined;
  const [, kind, rest] = prefixed.exec(text) ?? [];
  if (kind) return { using: kinds[kind.toLowerCase()]!, value: rest!.trim() };
  return looksLikePath.test(text) ? { using: 'xpath', value: text.trim() } : undefined;
}

/** What an object says that names how it looks for something: `{ kind: 'css', source: '#pay' }`, by whatever keys. */
function partOf(value: unknown): Sought | undefined {
  if (!isObject(value)) return undefined;
  const entries = Object.values(value).filter((one): one is string => typeof one === 'string');
  const using = entries.map((one) => kinds[one.toLowerCase()]).find(Boolean);
  const text = entries.filter((one) => !kinds[one.toLowerCase()] && one.length <= longestSelector).at(-1);
  return using && text ? { using, value: text } : undefined;
}

/**
 * The selector that stands among the data, where it says of what kind it is. One of several parts is known only where all
 * are of CSS: each is looked for within the one before.
 */
function soughtIn(value: unknown, depth = 0): Sought | undefined {
  if (depth > mostDepth) return undefined;
  if (typeof value === 'string') return plainly(value);
  if (Array.isArray(value)) {
    const parts = value.map(partOf);
    if (parts.some(Boolean)) {
      if (parts.length === 1) return parts[0];
      return parts.every((one) => one?.using === 'css selector')
        ? { using: 'css selector', value: parts.map((one) => one!.value).join(' ') }
        : undefined;
    }
    return firstOf(value, depth + 1);
  }
  return isObject(value) ? (partOf(value) ?? firstOf(Object.values(value), depth + 1)) : undefined;
}

function firstOf(values: readonly unknown[], depth: number): Sought | undefined {
  for (const one of values) {
    const found = soughtIn(one, depth);
    if (found) return found;
  }
  return undefined;
}

/** An element as clients write one down in what they log: `<button id="pay" class="main">Pay</button>`. */
const written = /<([a-z][\w-]{0,40})((?:\s+[\w:-]{1,60}(?:="[^"<>]{0,300}")?){0,30})\s*\/?>(?:([^<>]{0,200})<\/\1>)?/;
const attribute = /([\w:-]{1,60})="([^"]{0,300})"/g;

/** Whether a text writes an element down. */
export const writesElement = (text: string): boolean => written.test(text);

const quoted = (text: string): string => (text.includes('"') ? `'${text}'` : `"${text}"`);

/**
 * How an element is found again of which it is known how it was written, or how the browser describes it (`button#pay.main`).
 * @param described by the browser
 */
export function soughtAs(described: string, text = ''): Sought | undefined {
  const [, tag, attributes = '', content = ''] = written.exec(text) ?? [];
  const known = new Map([...attributes.matchAll(attribute)].map(([, name, value]) => [name!, value!]));
  const inner = content.replaceAll(/\s+/g, ' ').trim();
  const telling = ['id', 'data-testid', 'data-test', 'name', 'aria-label', 'placeholder', 'href'].find((name) => {
    const value = known.get(name);
    return value !== undefined && value !== '' && !/[…"]/.test(value);
  });
  if (tag && telling)
    return { using: 'css selector', value: `${tag}[${telling}=${JSON.stringify(known.get(telling))}]` };
  if (tag && inner && !inner.includes('…') && !(inner.includes('"') && inner.includes("'")))
    return { using: 'xpath', value: `//${tag}[normalize-space(.)=${quoted(inner)}]` };
  return /^[a-z][\w-]*(?:[#.][\w-]+)*$/i.test(described) ? { using: 'css selector', value: described } : undefined;
}

/** What the standards call what is read of an element. */
const reads: readonly [RegExp, string][] = [
  [/\.(?:innerText|textContent|outerText)\b/, 'text'],
  [/\.(?:innerHTML|outerHTML)\b/, 'property/innerHTML'],
  [/\.value\b(?!\s*=[^=])/, 'property/value'],
  [/\bgetComputedStyle\(/, 'css/style'],
];
const attributeRead = /\bgetAttribute\((?:\s*["'`]([\w:-]{1,60})["'`])?/;
const states: Readonly<Record<string, string>> = {
  visible: 'displayed',
  hidden: 'displayed',
  enabled: 'enabled',
  disabled: 'enabled',
  editable: 'enabled',
  checked: 'selected',
  unchecked: 'selected',
  selected: 'selected',
};
const literal = /["'`]([a-z]{4,10})["'`]/g;

/** What is called a name among the data; of several, the last: a selector's own kind stands before it. */
function namedIn(value: unknown, depth = 0): string | undefined {
  if (depth > mostDepth || value === null || typeof value !== 'object') return undefined;
  let found: string | undefined;
  for (const [key, one] of Object.entries(value)) {
    if (/^(?:name|attribute|attr)$/i.test(key) && typeof one === 'string' && /^[\w:-]{1,60}$/.test(one)) found = one;
    else found = namedIn(one, depth + 1) ?? found;
  }
  if (found !== undefined) return found;
  return depth === 1 && Array.isArray(value)
    ? value.findLast((one): one is string => typeof one === 'string')
    : undefined;
}

/**
 * What a carried function reads of an element, as the end of the path of the command that reads the same.
 * @param value what came back
 * @returns undefined where it reads nothing that a test would ask for
 */
export function readBy({ source, texts, data }: Carried, value: unknown): string | undefined {
  const sources = [source, ...texts.filter(isFunction)];
  const all = sources.join('\n');
  if (typeof value === 'string' || value === null) {
    const name = attributeRead.exec(all);
    if (name) return `attribute/${name[1] ?? namedIn(data) ?? 'attribute'}`;
    return reads.find(([read]) => read.test(all))?.[1];
  }
  if (typeof value !== 'boolean') return undefined;
  const named = [...texts, ...[...all.matchAll(literal)].map(([, one]) => one!)].find((one) => states[one]);
  return named === undefined ? undefined : states[named];
}
