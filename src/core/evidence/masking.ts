/**
 * Masking happens before anything is written. A masked place is marked, so that a reader sees that
 * something stood there; the value itself is nowhere.
 */

export const maskMark = '«masked»';

const sensitiveHeaders =
  /^(authorization|proxy-authorization|cookie|set-cookie|x-api-key|x-auth-token|x-csrf-token|x-xsrf-token|x-amz-security-token)$/i;
/** Names whose value is a secret, wherever a text gives one: `name=value`, `name: value`, `"name":"value"`, `<name>value</name>`. */
const sensitiveNames =
  '(?:[a-z]+[-_.]?)?(?:pass(?:word|wd|phrase|code)|secret(?:[-_]?key)?|api[-_]?key|apikey|private[-_]?key|credentials?|session[-_]?(?:id|key|token)|sessid|access[-_]?key|(?:access|refresh|id|auth|csrf|xsrf|bearer|client)?[-_]?token)';

/** Shapes that are secrets wherever they stand. The first group, where there is one, is kept. */
const shapes: RegExp[] = [
  /\b((?:Bearer|Basic|Digest|Token)\s+)[A-Za-z0-9._~+/-]{8,}=*/gi,
  /()\beyJ[A-Za-z0-9_-]{5,}\.[A-Za-z0-9_-]{5,}\.[A-Za-z0-9_-]*/g,
  /()\b(?:AKIA|ASIA)[A-Z0-9]{16}\b/g,
  /()\b(?:gh[pousr]_[A-Za-z0-9]{20,}|glpat-[A-Za-z0-9_-]{16,}|xox[abeoprs]-[A-Za-z0-9-]{10,}|[spr]k_(?:live|test)_[A-Za-z0-9]{10,}|AIza[A-Za-z0-9_-]{30,}|npm_[A-Za-z0-9]{30,})/g,
  /()-----BEGIN [A-Z ]*PRIVATE KEY-----[\s\S]*?(?:-----END [A-Z ]*PRIVATE KEY-----|$)/g,
  /(\b[a-z][a-z0-9+.-]*:\/\/[^\s/:@]*:)[^\s/@]+(?=@)/gi,
  /(\b(?:proxy-)?authorization\s*[:=]\s*)(?![\s«])[^\r\n"']+/gi,
  /(\b(?:set-)?cookie\s*:\s*)(?![\s«])[^\r\n"']+/gi,
  new RegExp(String.raw`(\\?["']?\b(?:${sensitiveNames})\\?["']?\s*[:=]\s*(?:\\?["']))(?!«)(?:[^"'\\]|\\[^"'])+`, 'gi'),
  new RegExp(String.raw`((?<!unexpected )\b(?:${sensitiveNames})(?:=|:\s?|%3D|\s=\s))(?!«)[^\s&#;,"'<>{}[\]«]+`, 'gi'),
  new RegExp(String.raw`(--?(?:${sensitiveNames})\s+)(?!«)[^\s"'-][^\s"']*`, 'gi'),
  new RegExp(String.raw`(<(${sensitiveNames})\b[^>]*>)(?!«)[^<]+(?=</)`, 'gi'),
  // The value of a password field in recorded markup, whichever way round its attributes stand.
  /(<input\b[^>]*\btype=\\?["']?password\b[^>]*\bvalue=\\?["'])(?!«)[^"'\\]+/gi,
  /(<input\b[^>]*\bvalue=\\?["'])(?!«)[^"'\\]+(?=\\?["'][^>]*\btype=\\?["']?password)/gi,
];

/** One look at a text tells whether any shape can be in it; most texts hold none. */
const gate =
  /pass(?:word|wd|phrase|code)|secret|(?:api|private|secret|access|session)[-_]?key|token|credential|sess(?:ion[-_]?(?:id|key|token)|id)|bearer|basic |digest |eyJ|AKIA|ASIA|private key|gh[pousr]_|glpat-|xox[abeoprs]-|k_(?:live|test)_|AIza|npm_|authorization|cookie|:\/\/[^\s/]*@/i;

export interface Masker {
  /** The text with every secret replaced by the mark. */
  text(text: string): string;
  /** Any JSON value with every string in it masked; header maps lose the values of telling headers. */
  value<T>(value: T): T;
  /** True when a JSON text surely holds nothing to mask, so that it need not be looked through part by part. */
  surelyClean(json: string): boolean;
  /** A header map, masked by name and by content. */
  headers(headers: Record<string, string>): Record<string, string>;
}

const escape = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** The forms in which a declared secret can turn up: plain, URL-encoded, inside JSON, base64. */
function formsOf(secret: string): string[] {
  const forms = new Set([secret, encodeURIComponent(secret), encodeURIComponent(secret).replaceAll('%20', '+')]);
  forms.add(JSON.stringify(secret).slice(1, -1));
  // Base64 of a run of bytes differs with what stands before it; the three alignments cover them all.
  const bytes = new TextEncoder().encode(secret);
  for (let lead = 0; lead < 3; lead++) {
    const padded = new Uint8Array(lead + bytes.length);
    padded.set(bytes, lead);
    const from = lead === 0 ? 0 : lead + 1;
    const whole = Math.floor(((lead + bytes.length) * 8) / 6);
    const inner = btoa(String.fromCharCode(...padded)).slice(from, whole);
    if (inner.length >= 8) forms.add(inner);
  }
  return [...forms];
}

/**
 * A masker for declared secrets and for what looks like one.
 * @param secrets values never to be stored; those under 3 characters are refused, since masking them would mask everything
 * @param patterns further regular expressions of one's own; the whole match is masked
 * @throws RangeError for a secret under 3 characters
 */
export function createMasker(secrets: readonly string[] = [], patterns: readonly RegExp[] = []): Masker {
  const short = secrets.find((secret) => secret.length < 3);
  if (short !== undefined) throw new RangeError('a declared secret must have at least 3 characters');
  const forms = secrets.flatMap(formsOf).sort((a, b) => b.length - a.length);
  const declared = forms.length ? new RegExp(forms.map(escape).join('|'), 'g') : undefined;

  const text = (input: string): string => {
    let out = declared ? input.replace(declared, maskMark) : input;
    if (gate.test(out)) for (const shape of shapes) out = out.replace(shape, `$1${maskMark}`);
    for (const pattern of patterns) out = out.replace(pattern, maskMark);
    return out;
  };
  const headers = (input: Record<string, string>): Record<string, string> =>
    Object.fromEntries(
      Object.entries(input).map(([name, content]) => [name, sensitiveHeaders.test(name) ? maskMark : text(content)]),
    );
  const value = <T>(input: T): T => {
    if (typeof input === 'string') return (input.length < 3 ? input : text(input)) as T;
    if (Array.isArray(input)) return input.map((item: unknown) => value(item)) as T;
    if (input && typeof input === 'object') {
      const out: Record<string, unknown> = {};
      for (const [key, content] of Object.entries(input)) {
        const isHeaders = (key === 'requestHeaders' || key === 'responseHeaders') && content;
        out[text(key)] = isHeaders ? headers(content as Record<string, string>) : value(content as unknown);
      }
      return out as T;
    }
    return input;
  };
  const surelyClean = (json: string): boolean =>
    // Escapes could hide a word from a look at the text as it is written.
    !declared && patterns.length === 0 && !json.includes('\\u') && !gate.test(json);
  return { text, value, headers, surelyClean };
}
