import { Script } from 'node:vm';

/** Functions that only give back a property of their element: `function () { return this.value }`, `(one) => one.value.trim()`. */
const reading =
  /^(?:function(?: \w{1,60})?\(\)\{return this|function(?: \w{1,60})?\((\w{1,60})\)\{return \1|\(?(\w{1,60})\)?=>\2)\.(\w{1,60})(?:\.trim\(\))?;?\}?$/;
const texts: ReadonlySet<string> = new Set(['innerText', 'textContent', 'outerText']);
/** What a script asks where its element is, or what lies there. */
const measures = /\b(?:getBoundingClientRect|getClientRects|elementFromPoint|elementsFromPoint|IntersectionObserver)\b/;
/** What does something to the page, whatever it measures besides. */
const acts = /\.(?:click|dispatchEvent|submit|setAttribute|remove|append|focus)\(|\.(?:value|checked|selected)\s*=[^=]/;
const visible = /^(?:function(?: \w{1,60})?\(\)\{return this|\(?(\w{1,60})\)?=>\1)\.checkVisibility\(/;

/**
 * What a function of a client reads of its one element, as the path of the command that reads the same.
 * @returns undefined for a function that does something of its own
 */
export function lookOf(source: string): string | undefined {
  // A longer one does more than to read.
  const line =
    source.length <= 300
      ? source
          .replace(/\s+/g, ' ')
          .replace(/ ?([^\w ]) ?/g, '$1')
          .trim()
      : '';
  const property = line ? reading.exec(line)?.[3] : undefined;
  if (property !== undefined) return texts.has(property) ? 'text' : `property/${property}`;
  if (visible.test(line)) return 'displayed';
  return measures.test(source) && !acts.test(source) ? 'rect' : undefined;
}

/**
 * The command that reads what a called function only reads.
 * @param own the element it is called on; @param given of each argument: the element it is
 * @returns its path; nothing where more than one element, or anything else, is given
 */
export function lookPathOf(
  source: string,
  own: string | undefined,
  given: readonly (string | undefined)[],
): string | undefined {
  const [only, ...more] = own === undefined ? given : [own, ...given];
  const look = only !== undefined && more.length === 0 ? lookOf(source) : undefined;
  return look === undefined ? undefined : `/element/${only}/${look}`;
}

/** One element by its selector, and what is read of it, in one expression: `document.querySelector('.fare').textContent`. */
const inline =
  /^(?:window\.)?document\.querySelector\((["'`])((?:\\.|(?!\1)[^\\]){1,400})\1\)(?:\?\.|\.)(\w{1,60})(?:\??\.trim\(\))?$/;
const selectorIn = /\bdocument\.querySelector\((["'`])((?:\\.|(?!\1)[^\\]){1,400})\1\)/g;
const unescaped = (written: string): string => written.replace(/\\(.)/g, '$1');

/**
 * The one element that an expression looks up by itself, and what it reads of it, as the path of the command that reads
 * the same; where it measures the element, that.
 * @returns undefined for one that does more, or speaks of several elements
 */
export function inlineLookOf(source: string): { selector: string; look: string } | undefined {
  const line = source.trim().replace(/;$/, '');
  const read = line.length <= 600 ? inline.exec(line) : null;
  if (read) {
    const [, , selector, property] = read;
    return { selector: unescaped(selector!), look: texts.has(property!) ? 'text' : `property/${property!}` };
  }
  if (!measures.test(source) || acts.test(source)) return undefined;
  const all = [...source.matchAll(selectorIn)];
  const selectors = new Set(all.map((one) => one[2]!));
  const asked = source.match(/\b(?:querySelector|getElement|evaluate)\w*\(/g)?.length;
  return selectors.size === 1 && asked === all.length ? { selector: unescaped(all[0]![2]!), look: 'rect' } : undefined;
}

/** Whether it is one expression: it is compiled, and never run. Between two kinds of brackets, so that it closes neither. */
function isExpression(source: string): boolean {
  let is = known.get(source);
  if (is !== undefined) return is;
  is = compiles(source);
  if (known.size >= mostKnown) known.clear();
  known.set(source, is);
  return is;
}
/** The same is asked again and again: by waits, and by every test of a suite. */
const known = new Map<string, boolean>();
const mostKnown = 300;

function compiles(source: string): boolean {
  try {
    for (const [open, close] of ['()', '[]']) new Script(`(async () => ${open!}${source}\n${close!})`);
    return true;
  } catch {
    return false;
  }
}

/** An evaluated expression as the body of a script: what it is worth is given back. Statements stay as they are. */
export function expressionBody(source: string): string {
  const text = source.trim().replace(/;$/, '');
  if (!text || !isExpression(text)) return source;
  // A comment at its head would end the line that gives it back.
  return text.startsWith('/') ? `return (${text}\n)` : `return ${text}`;
}

/** A function that is called, as the body of a script. @param withThis whether its first argument is what it is called on */
export function functionBody(source: string, withThis: boolean): string {
  if (!isExpression(source)) return source;
  const given = withThis ? 'arguments[0], [...arguments].slice(1)' : 'null, arguments';
  return `return (${source.trim()}).apply(${given})`;
}
