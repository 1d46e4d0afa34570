/**
 * Masking happens before anything is written. A masked place is marked, so that a reader sees that
 * something stood there; the value itself is nowhere.
 */

export const maskMark = '«masked»';

const sensitiveHeaders = /^(authorization|proxy-authorization|cookie|set-cookie|x-api-key|x-auth-token)$/i;
const sensitiveNames =
  'pass(?:word|wd|phrase)?|secret|api[-_]?key|access[-_]?token|refresh[-_]?token|id[-_]?token|auth[-_]?token|client[-_]?secret';

/** Shapes that are secrets wherever they stand. The first group, where there is one, is kept. */
const shapes: RegExp[] = [
  /\b((?:Bearer|Basic)\s+)[A-Za-z0-9._~+/-]{8,}=*/gi,
  /()\beyJ[A-Za-z0-9_-]{5,}\.[A-Za-z0-9_-]{5,}\.[A-Za-z0-9_-]*/g,
  /()\b(?:AKIA|ASIA)[A-Z0-9]{16}\b/g,
  /()-----BEGIN [A-Z ]*PRIVATE KEY-----[\s\S]*?(?:-----END [A-Z ]*PRIVATE KEY-----|$)/g,
  /(\b[a-z][a-z0-9+.-]*:\/\/[^\s/:@]+:)[^\s/@]+(?=@)/gi,
  new RegExp(`([?&#;](?:${sensitiveNames})=)[^&#\\s"']+`, 'gi'),
  new RegExp(`(["']?\\b(?:${sensitiveNames})["']?\\s*[:=]\\s*["'])[^"']+(?=["'])`, 'gi'),
];

export interface Masker {
  /** The text with every secret replaced by the mark. */
  text(text: string): string;
  /** Any JSON value with every string in it masked; header maps lose the values of telling headers. */
  value<T>(value: T): T;
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
    for (const shape of shapes) out = out.replace(shape, `$1${maskMark}`);
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
  return { text, value, headers };
}
