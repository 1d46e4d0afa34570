/**
 * What is a secret by its shape, wherever it stands. Every pattern here takes time in proportion to the text, whatever
 * the text: none begins in many places and then runs on to a common end. Where a secret's bounds need more than
 * a pattern can tell in one go, its surroundings are found first and looked into afterwards.
 */

export const maskMark = '«masked»';

/** Names whose value is a secret, wherever a text gives one: `name=value`, `name: value`, `"name":"value"`, `<name>value</name>`. */
const sensitiveNames =
  '(?:[a-z]{1,40}[-_.]?)?(?:pass(?:word|wd|phrase|code)|pwd|t?otp|cvv2?|cvc|jwt|secret(?:[-_]?key)?|api[-_]?key|apikey|private[-_]?key|credentials?|session[-_]?(?:id|key|token)|sessid|access[-_]?key|connection[-_]?string|(?:auth|verification|one[-_]?time)[-_]?code|(?:access|refresh|id|auth|csrf|xsrf|bearer|client)?[-_]?token)';

/** Names that say nothing by themselves, but carry a secret where an address or a form gives them a value. */
const sensitiveParameters =
  '(?:\\b(?:[a-z]{1,40}-){0,3}(?:sig|signature|SAMLResponse|SAMLRequest)|(?<=[?&;#]|%26)(?:code|sid|assertion))';

const sensitiveName = new RegExp(`^(?:x-)?(?:${sensitiveNames})$`, 'i');
/** How a page asks for its cookies to be sent; the name is that of a secret, the value is none. */
const plainValue = /^(?:include|omit|same-origin|true|false|null|undefined|)$/;

/** Whether what stands under a name in an object is a secret, whatever it is. */
export const isSensitive = (name: string, value: unknown): boolean =>
  name.length <= 100 &&
  value !== null &&
  value !== undefined &&
  typeof value !== 'boolean' &&
  !(typeof value === 'string' && plainValue.test(value)) &&
  sensitiveName.test(name);

const sensitiveHeader =
  /(?:^|[-_])(?:authorization|auth|cookie2?|token|api-?key|secret(?:-key)?|pass(?:word|wd|code)?|session(?:-?(?:id|key))?|sessid|credentials?|signature|jwt|otp)$/i;

/** Whether a header of that name carries a secret. */
export const isSensitiveHeader = (name: string): boolean => name.length > 200 || sensitiveHeader.test(name);

/** A quote as an entity of markup. */
const quoteEntity = '&(?:quot|apos|#3[49]|#x2[27]);';

/** A pattern, and what stands for what it finds. Without words of its own, the first group is kept before the mark. */
type Shape = [pattern: RegExp, instead?: (found: string) => string];

/** Three parts with dots between, the first of which begins as an object does in base64. */
function withoutTickets(run: string): string {
  if (!run.includes('eyJ')) return run;
  const parts = run.split('.');
  let out = '';
  for (let i = 0; i < parts.length; i++) {
    const at = parts[i]!.indexOf('eyJ');
    const isTicket =
      at >= 0 && parts[i]!.length - at >= 8 && (parts[i + 1]?.length ?? 0) >= 5 && parts[i + 2] !== undefined;
    if (i > 0) out += '.';
    if (!isTicket) {
      out += parts[i];
      continue;
    }
    out += parts[i]!.slice(0, at) + maskMark;
    i += 2;
  }
  return out;
}

/** A run of so many characters at least. Written as `{n,}`, a run of some millions is more than the engine's stack holds. */
function atLeast(count: number, set: string): string {
  return `[${set}]{${count}}[${set}]*`;
}

const passwordType = /\btype=\\?["']?password\b/i;
const valueOf = /(\bvalue=(\\?["']))(?!«)(?:(?!\2)[\s\S]){1,100000}/gi;

/** A field of recorded markup: its value goes when it is a password field. */
const withoutPassword = (tag: string): string => (passwordType.test(tag) ? tag.replace(valueOf, `$1${maskMark}`) : tag);

const shapes: Shape[] = [
  [new RegExp(String.raw`\b((?:Bearer|Basic|Digest|Token)\s{1,8})${atLeast(8, 'A-Za-z0-9._~+/-')}={0,3}`, 'gi')],
  [new RegExp(atLeast(20, 'A-Za-z0-9_.-'), 'g'), withoutTickets],
  [/()\b(?:AKIA|ASIA)[A-Z0-9]{16}\b/g],
  [
    new RegExp(
      `()(?<![A-Za-z0-9])(?:gh[pousr]_${atLeast(20, 'A-Za-z0-9')}|glpat-${atLeast(16, 'A-Za-z0-9_-')}|xox[abeoprs]-${atLeast(10, 'A-Za-z0-9-')}|[spr]k_(?:live|test)_${atLeast(10, 'A-Za-z0-9')}|AIza${atLeast(30, 'A-Za-z0-9_-')}|npm_${atLeast(30, 'A-Za-z0-9')})`,
      'g',
    ),
  ],
  [/()-----BEGIN [A-Z ]{0,40}PRIVATE KEY-----[\s\S]*?(?:-----END [A-Z ]{0,40}PRIVATE KEY-----|$)/g],
  // The slashes end each address: none is looked through twice.
  [/((?<=[a-z0-9+.-]):\/\/[^\s/:@?#]*:)[^\s/?#]+(?=@)/gi],
  [/(\b(?:proxy-)?authorization\s{0,20}[:=]\s{0,20})(?![\s«])[^\r\n"']+/gi],
  [/(\bdocument\.cookie\s{0,20}=\s{0,20}["'`][^=;"'`]{1,200}=)(?!«)[^;"'`]+/gi],
  [/(\b(?:set-)?cookie\s{0,20}:\s{0,20})(?![\s«])[^\r\n"']+/gi],
  [
    new RegExp(
      String.raw`(\\?["']?\b(?:${sensitiveNames})\\?["']?\s{0,20}[:=]\s{0,20}(?:\\?["']))(?!«)(?:[^"'\\]|\\[^"'])+`,
      'gi',
    ),
  ],
  // A field told as a name and, beside it, a value.
  [
    new RegExp(
      String.raw`(\\?["'](?:name|key|id|field)\\?["']\s{0,20}:\s{0,20}\\?["'](?:${sensitiveNames})\\?["']\s{0,20},\s{0,20}\\?["']value\\?["']\s{0,20}:\s{0,20}\\?["'])(?!«)(?:[^"'\\]|\\[^"'])+`,
      'gi',
    ),
  ],
  [new RegExp(String.raw`(${sensitiveParameters}(?:=|%3D))(?!«)[^\s&#;,"'<>{}[\]«]+`, 'gi')],
  [
    new RegExp(
      String.raw`((?<!unexpected )\b(?:${sensitiveNames})(?:=|:\s?|%3D|\s=\s))(?!«)[^\s&#;,"'<>{}[\]«]+`,
      'gi',
    ),
  ],
  // The same with its quotes written as a page's markup writes them.
  [
    new RegExp(
      String.raw`(\b(?:${sensitiveNames})${quoteEntity}\s{0,20}[:=]\s{0,20}${quoteEntity})(?!«)[^&<]+(?:&amp;[^&<]*)*`,
      'gi',
    ),
  ],
  [new RegExp(String.raw`(--?(?:${sensitiveNames})\s{1,20})(?!«)[^\s"'-][^\s"']*`, 'gi')],
  // A tag ends where the next begins; so does what stands between two.
  [new RegExp(String.raw`(<(?:${sensitiveNames})\b[^<>]*>)(?!«)[^<]+(?=</)`, 'gi')],
  // Quoted parts may hold what would end the tag; one that is cut off runs to the end.
  [/<input\b(?:[^<>"'\\]|\\"(?:[^"\\]|\\[^"])*(?:\\")?|\\[^"]|"[^"]*"?|'[^']*'?|<(?!input\b))*/gi, withoutPassword],
];

/** One look at a text tells whether any shape can be in it; most texts hold none. */
const gate =
  /pass(?:word|wd|phrase|code)|pwd|otp|cvv|cvc|jwt|one[-_]?time|connection[-_]?string|(?:auth|verification)[-_]?code|\b(?:sig|sid|code)(?:=|%3d)|signature|assertion|saml|secret|(?:api|private|access|session)[-_]?key|token|credential|sess(?:ion[-_]?id|id)|bearer|basic |digest |eyJ|AKIA|ASIA|gh[pousr]_|glpat-|xox[abeoprs]-|k_(?:live|test)_|AIza|npm_|authorization|cookie|private key|:\/\/[^\s/]*@/i;

/** Whether a text may hold a secret by its shape. */
export const mayHoldShape = (text: string): boolean => gate.test(text);

/** The text with what is a secret by its shape replaced by the mark. */
export function withoutShapes(text: string): string {
  if (!mayHoldShape(text)) return text;
  let out = text;
  for (const [pattern, instead] of shapes)
    out = instead ? out.replace(pattern, instead) : out.replace(pattern, `$1${maskMark}`);
  return out;
}
