import { legible } from './legible.ts';
import type { Locator } from '../evidence/event.ts';
import type { FailureKind } from './failure.ts';
import { readValues, type Values } from './values.ts';
import { callLogIn } from './call-log.ts';

/** What a failure's text says by itself, without the evidence beside it. What it does not say is absent. */
export interface MessageFacts {
  kind: FailureKind;
  /** The telling line: without class names, session data and hints. */
  headline: string;
  locator?: Locator;
  point?: { x: number; y: number };
  obstructing?: string;
  values?: Values;
  limitMs?: number;
  /** Handle or name of the window or frame it speaks of. */
  window?: string;
}

/** Wordings of each kind, most telling first. The first that fits decides. */
const wordings: [RegExp, FailureKind][] = [
  [
    /stale element|StaleElementReference|detached shadow root|(?:element|node) (?:is|was) (?:not|no longer) (?:attached|connected)|detached from (?:the )?(?:DOM|document|page)|no longer (?:attached|in the (?:DOM|document))|element reference .{0,60}(?:stale|no longer valid)/i,
    'stale-element',
  ],
  [
    /click intercepted|ClickIntercepted|would receive the (?:click|press|tap)|obscures it|intercepts pointer events|not clickable at (?:point|coordinates)|covered by (?:another )?element|is (?:covered|hidden) by/i,
    'press-intercepted',
  ],
  [
    /unexpected alert|UnhandledAlert|UnexpectedAlert|unexpected (?:modal )?dialog|user prompt (?:was )?(?:open|dismissed)|modal dialog present/i,
    'unexpected-dialog',
  ],
  [
    /no such alert|NoAlert(?:Present|Open)|no alert (?:is )?(?:open|present)|no dialog (?:was|is) open/i,
    'unexpected-dialog',
  ],
  [
    /no such (?:window|frame)|NoSuch(?:Window|Frame)|target window already closed|web view not found|browsing context has been discarded|window .{0,60}(?:was|is|already|has been) closed|target (?:page|frame).{0,30}(?:closed|detached)|no window (?:with|named|matching)/i,
    'no-such-window',
  ],
  [
    /invalid (?:element )?(?:selector|locator)|InvalidSelector|not a valid (?:selector|xpath)|unable to (?:parse|compile) (?:the )?(?:selector|xpath)/i,
    'invalid-locator',
  ],
  [
    /session not created|invalid session id|NoSuchSession|chrome not reachable|browser (?:has )?(?:crashed|closed|disconnected)|tab crashed|disconnected: |unable to (?:connect to|reach) (?:the )?(?:browser|driver|renderer)|connection (?:to the browser )?was (?:lost|closed)|SessionNotCreated/i,
    'browser-gone',
  ],
  [
    /net::ERR_|ECONN(?:REFUSED|RESET)|ENOTFOUND|ETIMEDOUT|connection refused|connection reset|about:neterror|dns(?:NotFound|_probe)|socket hang up|getaddrinfo/i,
    'unreachable',
  ],
  [
    /move target out of bounds|MoveTargetOutOfBounds|not (?:interactable|reachable)|NotInteractable|NotVisible|could not be scrolled into view|outside (?:of )?the viewport|element .{0,80}(?:is|was) not (?:visible|displayed|enabled)|element is disabled|zero size|invalid element state|InvalidElementState/i,
    'not-interactable',
  ],
  [
    /no such element|NoSuchElement|no such shadow root|(?:unable to|could not|cannot|can't|failed to) (?:locate|find)(?: an?| the| any)? (?:element|node|button|field|link|option|visible|css|xpath)|element .{0,120}?(?:not found|does not exist|is missing)|no (?:element|node)s? (?:found|match(?:es|ed)?)|(?:selector|locator) .{0,120}(?:matched (?:no|0)|not found)|didn't find any/i,
    'no-such-element',
  ],
  [
    /javascript error|JavascriptException|JavaScriptError|error in (?:the )?page|uncaught (?:exception )?in page|script threw|unhandled (?:page|browser) error/i,
    'script-error',
  ],
];

const timeoutWords =
  /time(?:d)?[ -]?out|TimeoutException|TimeoutError|deadline exceeded|exceeded (?:the )?(?:time|limit)|gave up (?:after|waiting)|(?:did|does|has) not [^\n]{1,120}? (?:with)?in \d|waited (?:for )?\d|still .{1,80} after \d/i;
const assertionWords =
  /assert|\bexpect(?:ed|ation|s|ing)?\b|should (?:be|have|equal|contain|match)|!==?|was not (?:true|false)|is not (?:true|false)|\bwant(?:ed)?\b|not ok\b|REQUIRE|CHECK\b|failure|[`'"] failed\b/i;
const ownFault =
  /\b(?:\w*NullPointer\w*|NullReference\w*|AttributeError|KeyError|IndexError|NameError|TypeError|ReferenceError|RangeError|ArrayIndexOutOfBounds\w*|IllegalState\w*|IllegalArgument\w*|ClassCast\w*|IndexOutOf\w*|ValueError|ZeroDivisionError|UnboundLocalError|NoMethodError|ArgumentError|ImportError|ModuleNotFoundError|SyntaxError|Segmentation fault|SIGSEGV|panic:|Can't locate object method|command not found|undefined method|Cannot read propert|is not a function|is not defined|has no attribute|object reference not set)/;

/** Reads a message. @param more the stack, looked into for what the message alone does not say */
export function readMessage(message: string, more = ''): MessageFacts {
  const text = legible(message.trim() ? message : more);
  const headline = headlineOf(text);
  const raw = tellingLine(text);
  const limitMs = limitIn(text);
  const values = readValues(text);
  const said = kindOf(raw, text, values !== undefined, limitMs !== undefined);
  // A call that ran out of time says in its log what it waited for in vain.
  const log = said === 'timeout' ? (callLogIn(text) ?? callLogIn(legible(more))) : undefined;
  const kind = log?.reason?.kind ?? said;
  const logged = log?.lines.map((line) => line.text).join('\n') ?? '';
  const locator = kind === 'assertion' && values ? undefined : (locatorIn(text) ?? locatorIn(logged));
  const point = pointIn(text);
  const obstructing =
    kind === 'press-intercepted' || kind === 'timeout' ? (obstructingIn(text) ?? obstructingIn(logged)) : undefined;
  const window = kind === 'no-such-window' ? windowIn(text) : undefined;
  return {
    kind,
    headline,
    ...(locator ? { locator } : {}),
    ...(point ? { point } : {}),
    ...(obstructing ? { obstructing } : {}),
    ...(values && (kind === 'assertion' || kind === 'timeout') ? { values } : {}),
    ...(limitMs !== undefined && said === 'timeout' ? { limitMs } : {}),
    ...(window ? { window } : {}),
  };
}

function kindOf(headline: string, text: string, compares: boolean, limited: boolean): FailureKind {
  if (!text.trim()) return 'unread';
  const head = text.slice(0, 4000);
  // A wait that ran out is a timeout whatever it waited for; only a script's or a page's own limit says so itself.
  if (
    timeoutWords.test(headline) &&
    (limited || /time(?:d)?[ -]?out|Timeout/i.test(headline)) &&
    !/net::ERR|ETIMEDOUT/.test(headline)
  )
    return 'timeout';
  for (const [pattern, kind] of wordings) if (pattern.test(headline)) return kind;
  if (ownFault.test(headline) && !compares) return 'test-error';
  if (compares) return 'assertion';
  for (const [pattern, kind] of wordings) if (pattern.test(head)) return kind;
  if (timeoutWords.test(head)) return 'timeout';
  if (assertionWords.test(head)) return 'assertion';
  if (ownFault.test(head)) return 'test-error';
  return 'driver-error';
}

/** Lines that say nothing about the failure itself. */
const idle =
  /^(?:E?$|\(?(?:Session|Driver|Build|System|Host|Capabilities)\b.{0,12}(?:info|ID)|at\s|File "|Traceback|\(driver info|command: |For documentation|#\d+ 0x|[-=_*]{3,}$|(?:\.\/|\/)?[\w./-]+:\d+: Failure$)/i;

function tellingLine(text: string): string {
  const lines = text.split('\n').map((line) => line.replace(/^E {2,}/, '').trim());
  return lines.find((line) => !idle.test(line)) ?? '';
}

/** The first line that tells what failed, without the names of exception classes before it. */
export function headlineOf(text: string): string {
  const told = tellingLine(legible(text));
  const bare = told
    .replace(
      /^(?:Uncaught )?(?:(?:[\w$]+\.)+[\w$]*(?:Error|Exception|Failure|Failed)|[A-Z]\w*(?:Error|Exception|Failed)|Error|Exception)\s*(?:\[\w+\])?:\s*/,
      '',
    )
    .trim();
  return (bare || told).slice(0, 1000);
}

const strategies: Record<string, string> = {
  css: 'css selector',
  'css selector': 'css selector',
  cssselector: 'css selector',
  selector: 'css selector',
  xpath: 'xpath',
  id: 'id',
  name: 'name',
  'class name': 'class name',
  classname: 'class name',
  'tag name': 'tag name',
  tagname: 'tag name',
  'link text': 'link text',
  linktext: 'link text',
  'partial link text': 'partial link text',
  partiallinktext: 'partial link text',
};
const strategyWords = 'partial ?link ?text|link ?text|css ?selector|class ?name|tag ?name|xpath|css|id|name';

const locatorForms: RegExp[] = [
  /"(?:method|using)"\s*:\s*"([^"]+)"\s*,\s*"(?:selector|value)"\s*:\s*"((?:[^"\\]|\\.)*)"/,
  new RegExp(
    String.raw`\bBy\.(${strategyWords})\s*[:(]\s*(?:"((?:[^"\\]|\\.)*)"|'([^']*)'|([^\n]+?))\s*(?:\)|$|\n| \(tried| within| after| to be)`,
    'i',
  ),
  new RegExp(String.raw`\bBy\(\s*(${strategyWords})\s*,\s*(?:"((?:[^"\\]|\\.)*)"|'([^']*)'|([^\n)]+))`, 'i'),
  new RegExp(String.raw`\(\s*['"](${strategyWords})['"]\s*,\s*(?:"((?:[^"\\]|\\.)*)"|'([^']*)')\s*\)`, 'i'),
  new RegExp(
    String.raw`[{([]\s*(${strategyWords})\s*[:=]\s*(?:"((?:[^"\\]|\\.)*)"|'([^']*)'|([^\n]+?))\s*[})\]](?=[\s.,;:]|$)`,
    'i',
  ),
  new RegExp(
    String.raw`\b(?:using|by|with|strategy)\s+(${strategyWords})\s*(?:=|:|with value|of)?\s*(?:"((?:[^"\\]|\\.)*)"|'([^']*)'|“([^”]*)”)`,
    'i',
  ),
  new RegExp(String.raw`(?:^|[\s"'“<(])(css|xpath|id|name)=((?:[^\s"'”>]|"[^"\n]*"|'[^'\n]*')+)`, 'i'),
];
const bareForms: RegExp[] = [
  /\b(?:locator|selector|querySelector|find_element|get_by_\w+|\$)\s*\(\s*(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|`([^`]*)`)/i,
  /\b(?:selector|locator|css|element|xpath|find|matching)\b:?\s+(?:"((?:[^"\\]|\\.)+)"|'((?:[^'\\]|\\.)+)'|“([^”]+)”|`([^`]+)`)/i,
  /unable to locate element:\s*((?:[.#*[/(]|[a-z][\w-]*[.#[:\s>])[^\n]*)/i,
  /waiting for (?:selector|element|visibility of|presence of)\s+([.#*[/][^\n]*?)(?:\s(?:to|within|after|for|\()|$)/im,
  /\belement\s+\(?([#.]\S+(?:\s[>+~]\s\S+)*)\)?\s+(?:(?:was |is )?(?:still )?(?:not|never)|did not|does not|could)/i,
];

/** A locator named in a text, with its strategy; a bare one is read as XPath when it begins like a path. */
export function locatorIn(text: string): Locator | undefined {
  // Markup in a message is what an element is, not how it was looked for.
  const head = text.slice(0, 4000).replaceAll(/<\/?[a-z][\w-]{0,60}(?:\s[^<>]{0,2000})?>(?:\.{3})?/gi, '');
  for (const form of locatorForms) {
    const found = form.exec(head);
    const using = found && strategies[found[1]!.toLowerCase().replace(/\s+/g, ' ')];
    const value = found?.slice(2).find((part) => part !== undefined);
    if (using && value?.trim()) return { using, value: value.trim().replaceAll('\\"', '"') };
  }
  for (const form of bareForms) {
    const value = form
      .exec(head)
      ?.slice(1)
      .find((part) => part !== undefined)
      ?.trim();
    if (!value || /^<|^https?:/.test(value)) continue;
    // Words alone are a label or an element's text, not something we can call a locator.
    if (!/[#.[\]/>:=*]|^[a-z][a-z0-9-]*$/.test(value) || /[.!?]$/.test(value)) continue;
    return { using: /^\(*\.?\//.test(value) ? 'xpath' : 'css selector', value: value.replaceAll('\\"', '"') };
  }
  return undefined;
}

function pointIn(text: string): { x: number; y: number } | undefined {
  const number = String.raw`(-?\d+(?:\.\d+)?)`;
  const found = new RegExp(
    String.raw`(?:at (?:point|coordinates|position)?|move target|coordinates?:?|point:?)\s*\(?\s*\(?(?:x[:=]\s*)?${number}\s*,\s*(?:y[:=]\s*)?${number}\s*\)`,
    'i',
  ).exec(text);
  return found ? { x: Number(found[1]), y: Number(found[2]) } : undefined;
}

function obstructingIn(text: string): string | undefined {
  const found =
    /(?:would receive the (?:click|press|tap):?\s*|because (?:another )?element\s+|covered by (?:another )?(?:element)?:?\s*|hidden by (?:element )?)(<[^\n]*?>|[.#][\w.#-]+)/i.exec(
      text,
    ) ??
    /(<[^\n<>]*>)(?:[^<\n]*<\/\w+>)?\s*(?:from (<[^\n<>]*>)[^\n]{0,40})?(?:subtree )?intercepts pointer events/i.exec(
      text,
    );
  return found?.[1];
}

function windowIn(text: string): string | undefined {
  const found =
    /(?:window|frame|handle|tab)(?: handle| named| with (?:name|title|handle))?[:\s]+(?:"([^"]+)"|'([^']+)'|“([^”]+)”|([0-9A-F]{16,}|[0-9a-f-]{36}))/i.exec(
      text,
    );
  return found?.slice(1).find((part) => part !== undefined);
}

const units: [RegExp, number][] = [
  [/^(?:ms|millis\w*|msecs?)$/i, 1],
  [/^(?:s|secs?|seconds?|second\(s\))$/i, 1000],
  [/^(?:m|mins?|minutes?)$/i, 60_000],
];
const amount = String.raw`(\d[\d_,]*(?:\.\d+)?)\s*(ms|millis\w*|msecs?|seconds?(?:\(s\))?|secs?|s|minutes?|mins?)\b`;
const limitForms: RegExp[] = [
  new RegExp(
    String.raw`(?:limit|timeout|deadline|tried for|wait(?:ed|ing)? (?:for )?(?:at most |up to )|maximum)\s*(?:of|was|is|[:=])?\s*${amount}`,
    'i',
  ),
  new RegExp(
    String.raw`(?:exceeded|after|within|in|for|waited)\s+(?:a |the )?(?:timeout of |limit of |at most |about )?${amount}`,
    'i',
  ),
  new RegExp(String.raw`${amount}\s*(?:timeout|limit|exceeded|elapsed|passed)`, 'i'),
];

/** The limit of a wait named in a message, ms. A limit told as such goes before a time that was measured. */
export function limitIn(text: string): number | undefined {
  for (const form of limitForms) {
    const found = form.exec(text.slice(0, 4000));
    const scale = found && units.find(([unit]) => unit.test(found[2]!.replace('(s)', 's')))?.[1];
    if (scale) return Number(found[1]!.replace(/[_,]/g, '')) * scale;
  }
  return undefined;
}
