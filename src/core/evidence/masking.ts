import { literal } from '../patterns/literal.ts';
import { probesOf, type Probes } from './probes.ts';
import { base64Forms, tellingPart, writtenForms } from './secret-forms.ts';
import { isSensitive, isSensitiveHeader, maskMark, mayHoldShape, withoutShapes } from './secret-shapes.ts';

/**
 * Masking happens before anything is written. A masked place is marked, so that a reader sees that
 * something stood there; the value itself is nowhere.
 */
export { maskMark };

/** A pattern of a person's own, whatever engine it runs on. */
export interface OwnPattern {
  replace(text: string, by: string): string;
}

export interface Masker {
  /** Those declared and learned, for a thread that masks as this one does. They live in memory only. */
  readonly secrets: readonly string[];
  /**
   * What turned out to be a secret: the value of a password field or a cookie. From here on it is masked as a declared
   * one; a short one only where it stands by itself, since nobody chose it for that.
   * @returns whether any of them was not known yet
   */
  learn(values: readonly string[]): boolean;
  /** What was learned turned out to be none: the beginning of one, say. Declared ones stay. */
  unlearn(value: string): void;
  /** The text with every secret replaced by the mark. */
  text(text: string): string;
  /** Markup with every secret replaced, also where tags stand in the middle of one. */
  markup(markup: string): string;
  /** Masks, then cuts to a length: a secret that stands across the cut is not left there by half. */
  cut(text: string, length: number): string;
  /** Any JSON value with every string in it masked; header maps lose the values of telling headers. */
  value<T>(value: T): T;
  /** True when a JSON text surely holds nothing to mask, so that it need not be looked through part by part. */
  surelyClean(json: string): boolean;
  /** A header map, masked by name and by content. */
  headers(headers: Record<string, string>): Record<string, string>;
  /**
   * Whether a text may go on to be a declared secret: a piece of typing that is held until the next is known.
   * @returns `whole` when it holds one, `part` when it ends as one begins, `telling` when that already gives it away
   */
  begins(text: string): 'whole' | 'telling' | 'part' | 'no';
}

/** Numbers that say where and when, and are nobody's secret. */
const places: ReadonlySet<string> = new Set(['at', 'until', 'startedAt', 'durationMs', 'width', 'height', 'x', 'y']);

/** Texts this short are hardly ever cut off; they have to hold most of a secret to be taken for one that was. */
const shortestCut = 40;
const mostOfIt = 0.6;

/** Deeper than any value of ours; what lies deeper is left out rather than followed. */
const deepest = 300;

/**
 * A masker for declared secrets and for what looks like one.
 * @param secrets values never to be stored; those under 3 characters are refused, since masking them would mask everything
 * @param patterns further patterns of one's own; the whole match is masked
 * @throws RangeError for a secret under 3 characters
 */
export function createMasker(secrets: readonly string[] = [], patterns: readonly OwnPattern[] = []): Masker {
  const short = secrets.find((secret) => secret.length < 3);
  if (short !== undefined) throw new RangeError('a declared secret must have at least 3 characters');
  const told = [...new Set(secrets)];
  const numbers = new Set(told.filter((secret) => /^-?\d+(?:\.\d+)?$/.test(secret)).map(Number));
  const ofTold = told.flatMap((secret) => searchesFor(secret));
  const learned = new Map<string, Search[]>();
  let known: string[];
  let declared: Search[];
  let probes: Probes;
  let ends: ReturnType<typeof cutEnds>;
  const takeStock = (): void => {
    // Those that hold others go first.
    known = [...told, ...learned.keys()].sort((a, b) => b.length - a.length);
    declared = [...ofTold, ...[...learned.values()].flat()].sort((a, b) => b.length - a.length);
    probes = probesOf(declared.map(({ probe }) => probe));
    ends = cutEnds(known.filter((secret) => secret.length >= 6));
  };
  takeStock();
  const learn = (values: readonly string[]): boolean => {
    const fresh = [...new Set(values)].filter(
      (one) =>
        one.length >= 3 &&
        one.length <= longestLearned &&
        !one.includes(maskMark) &&
        !learned.has(one) &&
        !told.includes(one),
    );
    for (const one of fresh.slice(0, Math.max(0, mostLearned - learned.size)))
      learned.set(one, searchesFor(one, one.length < shortLearned));
    if (fresh.length) takeStock();
    return fresh.length > 0;
  };
  const unlearn = (value: string): void => {
    if (learned.delete(value)) takeStock();
  };

  const whole = (input: string): string => {
    let out = input;
    if (declared.length)
      for (const i of [...probes.in(input)].sort((a, b) => a - b)) out = out.replace(declared[i]!.pattern, maskMark);
    out = withoutShapes(out);
    return patterns.length ? patterns.reduce((text: string, pattern) => pattern.replace(text, maskMark), out) : out;
  };
  const text = (given: string): string => {
    const out = inParts(given, whole);
    return ends ? ends(out, given.length < shortestCut ? mostOfIt : 0) : out;
  };
  const headers = (input: Record<string, string>): Record<string, string> =>
    Object.fromEntries(
      Object.entries(input).map(([name, content]) => [
        name,
        isSensitiveHeader(name) ? maskMark : text(typeof content === 'string' ? content : String(content)),
      ]),
    );
  const value = <T>(input: T, depth = 0): T => {
    if (typeof input === 'string')
      return (
        input.length < 3
          ? input
          : input.length > longestValue
            ? `${cut(input, longestValue)}… (${input.length} characters)`
            : text(input)
      ) as T;
    if (typeof input === 'number') return (numbers.has(input) ? maskMark : input) as T;
    if (depth > deepest) return maskMark as T;
    if (Array.isArray(input)) {
      // A pair of a name and what it holds.
      if (input.length === 2 && typeof input[0] === 'string' && isSensitive(input[0], input[1]))
        return [text(input[0]), maskMark] as T;
      return input.map((item: unknown) => value(item, depth + 1)) as T;
    }
    if (input && typeof input === 'object') {
      const out: Record<string, unknown> = {};
      const { name, key: named, id, field } = input as Record<string, unknown>;
      const holds = 'value' in input && [name, named, id, field].find((one) => typeof one === 'string');
      for (const [key, content] of Object.entries(input)) {
        const isHeaders = (key === 'requestHeaders' || key === 'responseHeaders') && content;
        const hides = isSensitive(key, content) || (key === 'value' && holds && isSensitive(holds as string, content));
        out[text(key)] = isHeaders
          ? headers(content as Record<string, string>)
          : hides
            ? maskMark
            : typeof content === 'number' && places.has(key)
              ? content
              : value(content as unknown, depth + 1);
      }
      return out as T;
    }
    return input;
  };
  const surelyClean = (json: string): boolean =>
    // Escapes could hide a word from a look at the text as it is written.
    declared.length === 0 && patterns.length === 0 && !json.includes('\\u') && !mayHoldShape(json);
  const begins: Masker['begins'] = (input) => {
    // Of those declared only: what is learned is typed already, and any letter may begin one of many.
    if (told.some((secret) => input.includes(secret))) return 'whole';
    const parts = told.map((secret) => overlap(input, secret) / tellingPart(secret));
    const most = Math.max(0, ...parts);
    return most >= 1 ? 'telling' : most > 0 ? 'part' : 'no';
  };
  const cut = (input: string, length: number): string => {
    // Of what is far longer, the rest is not looked through; a secret that stands across that cut is left out with it.
    const near = input.length > length + 2 * beyondCut ? input.slice(0, length + 2 * beyondCut) : input;
    const masked = text(near);
    const out = near === input ? masked : masked.slice(0, Math.max(0, masked.length - beyondCut));
    return out.length > length ? out.slice(0, length) : out;
  };
  const markup = (input: string): string => acrossTags(inParts(input, whole), declared, probes);
  return {
    get secrets() {
      return known;
    },
    learn,
    unlearn,
    text,
    cut,
    markup,
    value,
    headers,
    surelyClean,
    begins,
  };
}

/** A text in an event that is longer is cut before it is looked through: nobody reads a line as long. */
const longestValue = 256 * 1024;
/** Looked through beyond a cut, so that what stands across it is known. */
const beyondCut = 4096;
/** A longer text is looked through in parts of so much: what a pattern remembers on its way is bounded. */
const partLength = 1024 * 1024;

/** Learned secrets: so many, none longer; shorter ones than this only where they stand by themselves. */
const mostLearned = 300;
const longestLearned = 20_000;
const shortLearned = 6;
/** Of a longer secret its beginning is looked for; what follows without a break goes with it. */
const longestPattern = 400;

/** How a secret is looked for: something that stands in all its writings tells whether a closer look is worth it. */
interface Search {
  probe: string;
  pattern: RegExp;
  /** Of the secret. */
  length: number;
}

function searchesFor(secret: string, alone = false): Search[] {
  const begins = secret.slice(0, longestPattern);
  const runs = begins.match(/[A-Za-z0-9]+/g) ?? [];
  const probe = runs.reduce((a, b) => (b.length > a.length ? b : a), '');
  const rest = secret.length > longestPattern ? `[^\\s"'<>&,;]{0,${secret.length * 3}}` : '';
  const forms = `${writtenForms(begins)}${rest}`;
  const { length } = secret;
  if (alone) return [{ probe, pattern: new RegExp(`(?<![A-Za-z0-9])${forms}(?![A-Za-z0-9])`, 'g'), length }];
  return [
    { probe, pattern: new RegExp(forms, 'g'), length },
    ...base64Forms(begins).map((form) => ({ probe: form, pattern: new RegExp(literal(form), 'g'), length })),
  ];
}

/**
 * Works through a long text in parts that end where a line or a tag does. What has no such end for so long cannot be
 * parted without parting a secret: the rest of it is left out.
 */
function inParts(text: string, work: (part: string) => string): string {
  if (text.length <= partLength) return work(text);
  let out = '';
  for (let at = 0; at < text.length;) {
    const most = Math.min(text.length, at + partLength);
    const end = most === text.length ? most : Math.max(text.lastIndexOf('\n', most) + 1, text.lastIndexOf('<', most));
    if (end > at) {
      out += work(text.slice(at, end));
      at = end;
      continue;
    }
    const next = /[\n<]/g;
    next.lastIndex = most;
    const on = next.exec(text)?.index ?? text.length;
    out += `${work(text.slice(at, most)).slice(0, -beyondCut)}… (${on - at} characters)`;
    at = on;
  }
  return out;
}

/** Finds secrets in the text of markup without its tags, and masks the pieces where they stand. */
function acrossTags(markup: string, declared: readonly { pattern: RegExp }[], probes: Probes): string {
  if (declared.length === 0) return markup;
  const pieces: { from: number; text: string }[] = [];
  let end = 0;
  for (const tag of markup.matchAll(/<[^<>]*>/g)) {
    if (tag.index > end) pieces.push({ from: end, text: markup.slice(end, tag.index) });
    end = tag.index + tag[0].length;
  }
  pieces.push({ from: end, text: markup.slice(end) });
  const plain = pieces.map((piece) => piece.text).join('');
  const hidden: { from: number; to: number }[] = [];
  for (const i of probes.in(plain))
    for (const found of plain.matchAll(declared[i]!.pattern))
      hidden.push({ from: found.index, to: found.index + found[0].length });
  if (!hidden.length) return markup;
  hidden.sort((a, b) => a.from - b.from);
  let out = '';
  let at = 0;
  let before = 0;
  for (const { from, text } of pieces) {
    out += markup.slice(at, from);
    let kept = 0;
    for (const { from: start, to } of hidden) {
      const [a, b] = [Math.max(start - before, kept), Math.min(to - before, text.length)];
      if (a >= b) continue;
      out += text.slice(kept, a) + maskMark;
      kept = b;
    }
    out += text.slice(kept);
    at = from + text.length;
    before += text.length;
  }
  return out + markup.slice(at);
}

/** How many characters at the end of a text are the beginning of a secret, less than all of it. */
function overlap(text: string, secret: string): number {
  for (let length = Math.min(text.length, secret.length - 1); length > 0; length--)
    if (text.endsWith(secret.slice(0, length))) return length;
  return 0;
}

/**
 * Where a text was cut off in the middle of a secret, at its end or at its beginning, the part that is left goes, too.
 * Only the ends of the text are looked at, and only for secrets whose telling part stands there.
 */
function cutEnds(secrets: readonly string[]): ((text: string, least: number) => string) | undefined {
  if (!secrets.length) return undefined;
  const longest = Math.max(...secrets.map((secret) => secret.length));
  const beginnings = probesOf(secrets.map((secret) => secret.slice(0, tellingPart(secret))));
  const endings = probesOf(secrets.map((secret) => secret.slice(-tellingPart(secret))));
  /** @param share of a secret that has to be there, where that is more than its telling part */
  return (input, share) => {
    const leastOf = (secret: string): number => Math.max(tellingPart(secret), Math.ceil(secret.length * share));
    const sign = input.endsWith('…') ? '…' : input.endsWith('...') ? '...' : '';
    let body = sign ? input.slice(0, -sign.length) : input;
    for (const i of beginnings.in(body.slice(-longest))) {
      const tail = overlap(body, secrets[i]!);
      if (tail >= leastOf(secrets[i]!)) body = body.slice(0, -tail) + maskMark;
    }
    for (const i of endings.in(body.slice(0, longest))) {
      const secret = secrets[i]!;
      for (let length = secret.length - 1; length >= leastOf(secret); length--)
        if (body.startsWith(secret.slice(-length))) {
          body = maskMark + body.slice(length);
          break;
        }
    }
    return body + sign;
  };
}
