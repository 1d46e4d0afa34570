/** Words of paths and titles, as they meet in file names. */

/** Lower-case words: cut at everything but letters and digits, and where small meets capital. */
export function wordsOf(text: string): string[] {
  return text
    .replace(/([\p{Ll}\d])(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word.length > 1 || /\d/.test(word));
}

/** How telling each word is among titles: the log of how few of them have it. */
export class Telling {
  private readonly counts = new Map<string, number>();
  constructor(titles: readonly string[]) {
    for (const title of titles)
      for (const word of new Set(wordsOf(title))) this.counts.set(word, (this.counts.get(word) ?? 0) + 1);
    this.of = titles.length;
  }
  private readonly of: number;
  weight(word: string): number {
    return Math.log(1 + this.of / (this.counts.get(word) ?? 0.5));
  }

  /** A title's words with what each tells, cut once for all paths it is held against. */
  weighed(title: readonly string[]): WeighedTitle {
    const words = [...new Set(title)].map((word) => ({ word, weight: this.weight(word) }));
    return { words, all: words.reduce((sum, { weight }) => sum + weight, 0) };
  }
}

export interface WeighedTitle {
  words: { word: string; weight: number }[];
  all: number;
}

/** Share of a title's telling words that a path has, 0 to 1. */
export function shareOf({ words, all }: WeighedTitle, path: ReadonlySet<string>): number {
  let met = 0;
  for (const { word, weight } of words) if (path.has(word)) met += weight;
  return all ? met / all : 0;
}

/** Words that say which try or size it is, or what kind of file, and not which test. */
const besides =
  /^(?:\d+|attempt|try|run|retry\d*|rerun\d*|chromium|chrome|firefox|webkit|png|jpe?g|webm|har|log|txt|json|html?|zip)$/;

/** A part of a path in words: all of them, and those that may name a test. */
export interface PathPart {
  all: string;
  naming: string;
}

/** The parts of a path, cut into words once for all titles they are held against. */
export const partsOf = (path: string): PathPart[] =>
  path.split('/').map((part) => {
    const words = wordsOf(part);
    return { all: ` ${words.join(' ')} `, naming: words.filter((word) => !besides.test(word)).join(' ') };
  });

/**
 * How exactly a path names a title: all of one of its parts, in the middle of one, or not.
 * @param title words of the title, joined by spaces; one word alone names nothing
 */
export function namedBy(parts: readonly PathPart[], title: string): 'whole' | 'within' | undefined {
  if (!title.includes(' ')) return undefined;
  if (parts.some(({ naming }) => naming === title)) return 'whole';
  return parts.some(({ all }) => all.includes(` ${title} `)) ? 'within' : undefined;
}

const tryMark = /(?:^|[^a-z])(attempt|try|run|retry|rerun)[-_ #]?(\d{1,2})(?:\D|$)/i;
/** Which try a path speaks of, from 1: `attempt-2` is 2, `retry1` the first repetition, so 2 as well. */
export function tryIn(path: string): number | undefined {
  const found = tryMark.exec(path);
  if (!found) return undefined;
  return Number(found[2]) + (/^re/i.test(found[1]!) ? 1 : 0);
}

const browsers: [RegExp, string][] = [
  [/chromium|chrome/i, 'chromium'],
  [/firefox|gecko/i, 'firefox'],
  [/webkit|safari/i, 'webkit'],
  [/\bedge\b|msedge/i, 'edge'],
];
/** The browser a text names. */
export const browserIn = (text: string): string | undefined => browsers.find(([pattern]) => pattern.test(text))?.[1];

/** A size like `390x844` in a text. */
export function sizeIn(text: string): { width: number; height: number } | undefined {
  const found = /(?:^|\D)(\d{3,4})\s?[x×]\s?(\d{3,4})(?:\D|$)/.exec(text);
  return found ? { width: Number(found[1]), height: Number(found[2]) } : undefined;
}

const workerMark = /(?:^|[^a-z])(?:worker|wkr|shard|gw|w|thread|process)[-_ #]?(\d{1,3})(?:\D|$)/i;
/** The worker a path or a label names, by its number. */
export function workerIn(text: string): number | undefined {
  const found = workerMark.exec(text);
  return found ? Number(found[1]) : undefined;
}
