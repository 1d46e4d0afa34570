/**
 * What is a secret by its shape, wherever it stands. Every pattern here takes time in proportion to the text, whatever
 * the text: none begins in many places and then runs on to a common end. Where a secret's bounds need more than
 * a pattern can tell in one go, its surroundings are found first and looked into afterwards.
 */

export const maskMark = '«masked»';

/** Names whose value is a secret, wherever a text gives one: `name=value`, `name: value`, `"name":"value"`, `<name>value</name>`. */
const sensitiveNames =
  '(?:[a-z]{1,40}[-_.]?)?(?:pass(?:word|wd|phrase|code)|secret(?:[-_]?key)?|api[-_]?key|apikey|private[-_]?key|credentials?|session[-_]?(?:id|key|token)|sessid|access[-_]?key|(?:access|refresh|id|auth|csrf|xsrf|bearer|client)?[-_]?token)';

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

const passwordType = /\btype=\\?["']?password\b/i;
const valueOf = /(\bvalue=(\\?["']))(?!«)(?:(?!\2)[\s\S]){1,100000}/gi;

/** A field of recorded markup: its value goes when it is a password field. */
const withoutPassword = (tag: string): string => (passwordType.test(tag) ? tag.replace(valueOf, `$1${maskMark}`) : tag);

const shapes: Shape[] = [
  [/\b((?:Bearer|Basic|Digest|Token)\s{1,8})[A-Za-z0-9._~+/-]{8,}={0,3}/gi],
  [/[A-Za-z0-9_.-]{20,}/g, withoutTickets],
  [/()\b(?:AKIA|ASIA)[A-Z0-9]{16}\b/g],
  [
    /()(?<![A-Za-z0-9])(?:gh[pousr]_[A-Za-z0-9]{20,}|glpat-[A-Za-z0-9_-]{16,}|xox[abeoprs]-[A-Za-z0-9-]{10,}|[spr]k_(?:live|test)_[A-Za-z0-9]{10,}|AIza[A-Za-z0-9_-]{30,}|npm_[A-Za-z0-9]{30,})/g,
  ],
  [/()-----BEGIN [A-Z ]{0,40}PRIVATE KEY-----[\s\S]*?(?:-----END [A-Z ]{0,40}PRIVATE KEY-----|$)/g],
  // The slashes end each address: none is looked through twice.
  [/((?<=[a-z0-9+.-]):\/\/[^\s/:@]*:)[^\s/@]+(?=@)/gi],
  [/(\b(?:proxy-)?authorization\s{0,20}[:=]\s{0,20})(?![\s«])[^\r\n"']+/gi],
  [/(\b(?:set-)?cookie\s{0,20}:\s{0,20})(?![\s«])[^\r\n"']+/gi],
  [
    new RegExp(
      String.raw`(\\?["']?\b(?:${sensitiveNames})\\?["']?\s{0,20}[:=]\s{0,20}(?:\\?["']))(?!«)(?:[^"'\\]|\\[^"'])+`,
      'gi',
    ),
  ],
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
  /pass(?:word|wd|phrase|code)|secret|(?:api|private|access|session)[-_]?key|token|credential|sess(?:ion[-_]?id|id)|bearer|basic |digest |eyJ|AKIA|ASIA|gh[pousr]_|glpat-|xox[abeoprs]-|k_(?:live|test)_|AIza|npm_|authorization|cookie|private key|:\/\/[^\s/]*@/i;

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
