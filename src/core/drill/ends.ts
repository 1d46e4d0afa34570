import { literal } from '../patterns/literal.ts';
import { linearPattern } from '../patterns/linear-pattern.ts';
import { holds, numberOf } from './compare.ts';
import type { Comparison } from './drill.ts';

/** How a value is compared, so that it fits all that ended the waiting and nothing that went before. */
export interface Compared {
  comparison: Comparison;
  value: string;
}

const distinct = (list: readonly string[]): string[] => [...new Set(list)];

/** A pattern for texts that differ in their digits only; nothing where there is no such. */
function shapeOf(texts: readonly string[]): string | undefined {
  const shapes = distinct(texts.map((text) => text.replace(/\d+/g, '\uE000')));
  if (shapes.length !== 1 || !shapes[0]!.includes('\uE000') || shapes[0] === '\uE000') return undefined;
  return `^${literal(shapes[0]!).replaceAll('/', '\\/').replaceAll('\uE000', '\\d+')}$`;
}

/** The longest text that all hold, a word at least. */
function commonPart(texts: readonly string[]): string | undefined {
  const [shortest = '', ...rest] = [...texts].sort((a, b) => a.length - b.length);
  const words = shortest.slice(0, 400).split(/(?<=\s)/);
  for (let length = words.length; length > 0; length--)
    for (let from = 0; from + length <= words.length; from++) {
      const part = words
        .slice(from, from + length)
        .join('')
        .trim();
      if (part.length >= 3 && rest.every((text) => text.includes(part))) return part;
    }
  return undefined;
}

/**
 * What a test waited for, or checked, told from what ended its looks and what did not.
 * @param ended values at which the test went on, of all attempts known
 * @param before values at which it did not
 * @param hints what its message or its checks name, likeliest first
 * @returns nothing when no comparison parts the two, or when nothing is known of either
 */
export function comparedBy(
  ended: readonly string[],
  before: readonly string[],
  hints: readonly string[] = [],
): Compared | undefined {
  const ends = distinct(ended);
  const none = distinct(before);
  const parts = (one: Compared): boolean =>
    ends.every((value) => fits(value, one)) && none.every((value) => !fits(value, one));
  const first = (list: (Compared | undefined)[]): Compared | undefined =>
    list.find((one) => one !== undefined && parts(one));
  if (ends.length === 0)
    return first(hints.flatMap((value): Compared[] => (none.length ? [{ comparison: 'is', value }] : [])));
  const numbers = [...ends, ...none].every((value) => /\d/.test(value) && Number.isFinite(numberOf(value)));
  const least = Math.min(...ends.map(numberOf));
  const most = Math.max(...ends.map(numberOf));
  const shape = shapeOf(ends);
  const notShape = shapeOf(none);
  const common = ends.length > 1 ? commonPart(ends) : undefined;
  // Seen once, a number with several digits may be another one the next time.
  const mayDiffer = ended.length < 2 && none.length === 1 && /\d{3}/.test(ends[0]!);
  return first([
    ...(ends.length === 1 ? [] : hints.map((value): Compared => ({ comparison: 'contains', value }))),
    ...hints
      .filter((value) => ends.length === 1 && value !== ends[0])
      .map((value): Compared => ({ comparison: 'contains', value })),
    ends.length === 1 && !mayDiffer ? { comparison: 'is', value: ends[0]! } : undefined,
    none.length === 1 ? { comparison: 'is not', value: none[0]! } : undefined,
    shape && none.length ? { comparison: 'matches', value: shape } : undefined,
    numbers && none.length ? { comparison: 'is at least', value: String(least) } : undefined,
    numbers && none.length ? { comparison: 'is at most', value: String(most) } : undefined,
    common && none.length ? { comparison: 'contains', value: common } : undefined,
    notShape ? { comparison: 'does not match', value: notShape } : undefined,
  ]);
}

function fits(value: string, { comparison, value: wanted }: Compared): boolean {
  if (comparison === 'matches' || comparison === 'does not match') {
    const found = linearPattern(wanted).fits(value);
    return comparison === 'matches' ? found : !found;
  }
  return holds(value, comparison, wanted);
}
