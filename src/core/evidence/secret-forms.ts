/**
 * The forms in which a declared secret turns up: as it is, URL-encoded, inside JSON, inside markup, any of these for
 * any of its characters, and in base64.
 */

const escapeChar = (char: string): string => char.replace(/[.*+?^${}()|[\]\\/-]/g, '\\$&');

const named: Readonly<Record<string, string>> = {
  '&': 'amp',
  '<': 'lt',
  '>': 'gt',
  '"': 'quot',
  "'": 'apos',
  '\u00a0': 'nbsp',
};
const jsonShort: Readonly<Record<string, string>> = {
  '\n': 'n',
  '\r': 'r',
  '\t': 't',
  '\b': 'b',
  '\f': 'f',
};

/** One character in all its writings, the longer ones first. */
function writingsOfChar(char: string): string {
  if (/^[A-Za-z0-9]$/.test(char)) return char;
  const code = char.codePointAt(0)!;
  const hex = code.toString(16);
  const forms = new Set<string>();
  // Markup, by name and by number; what holds it may escape the ampersand once more.
  if (named[char]) forms.add(`&(?:amp;)?${named[char]};`);
  forms.add(`&(?:amp;)?#0{0,4}${code};`);
  forms.add(`&(?:amp;)?#[xX]0{0,4}${anyCase(hex)};`);
  // JSON, also JSON inside JSON.
  forms.add(
    [...Array(char.length).keys()]
      .map((i) => `\\\\{1,4}u${anyCase(char.charCodeAt(i).toString(16).padStart(4, '0'))}`)
      .join(''),
  );
  if (jsonShort[char]) forms.add(`\\\\{1,4}${jsonShort[char]}`);
  if (char === '"' || char === '\\' || char === '/') forms.add(`\\\\{1,4}${escapeChar(char)}`);
  // Addresses and forms.
  forms.add(
    [...new TextEncoder().encode(char)]
      .map((byte) => `%(?:25)?${anyCase(byte.toString(16).padStart(2, '0'))}`)
      .join(''),
  );
  if (char === ' ') forms.add('\\+');
  forms.add(escapeChar(char));
  return `(?:${[...forms].join('|')})`;
}

const anyCase = (hex: string): string => hex.replace(/[a-f]/g, (letter) => `[${letter}${letter.toUpperCase()}]`);

/**
 * The source of a regular expression that finds a secret in any of its writings. None of its parts repeats, so it takes
 * time in proportion to the text.
 */
export const writtenForms = (secret: string): string =>
  (secret.match(/\s+|[^\s]/gu) ?? [])
    .map((part) => {
      const written = [...part].map(writingsOfChar).join('');
      // Pages and people fold white space: as much of it as one likes is still the same.
      return /\s/.test(part) ? `(?:\\s{1,40}|${written})` : written;
    })
    .join('');

/**
 * Base64 of a run of bytes differs with what stands before it; the three alignments cover them all, without the ends
 * that depend on their neighbours. Short ones are left out: they would be found everywhere.
 */
export function base64Forms(secret: string): string[] {
  const bytes = new TextEncoder().encode(secret);
  const out: string[] = [];
  for (let lead = 0; lead < 3; lead++) {
    const padded = new Uint8Array(lead + bytes.length);
    padded.set(bytes, lead);
    const from = lead === 0 ? 0 : lead + 1;
    const whole = Math.floor(((lead + bytes.length) * 8) / 6);
    const inner = btoa(String.fromCharCode(...padded)).slice(from, whole);
    if (inner.length >= 8) out.push(inner, inner.replaceAll('+', '-').replaceAll('/', '_'));
  }
  return [...new Set(out)];
}

/** Whole texts in which a secret is written by programs: as it is, in JSON, in addresses and forms, in markup, in base64. */
export function writingsOf(secret: string): string[] {
  const markup = [...secret].map((char) => (named[char] && char !== '\u00a0' ? `&${named[char]};` : char)).join('');
  const uri = encodeURIComponent(secret);
  const all = [
    secret,
    JSON.stringify(secret).slice(1, -1),
    uri,
    uri.replaceAll('%20', '+'),
    markup,
    ...base64Forms(secret),
  ];
  return [...new Set(all)];
}

/** How much of a secret gives it away when the rest was cut off. */
export const tellingPart = (secret: string): number => Math.max(4, Math.ceil(secret.length * 0.3));
