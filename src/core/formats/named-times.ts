import { zoneOf } from './zone-text.ts';

/** Months as they are shortened, in their order. */
export const months = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];

/**
 * Times with the month by its name, as RFC 1123 (`Mon, 23 Nov 2026 10:00:00 GMT`), RFC 850, `ctime` and the scripts of
 * pages write them. A weekday before them says nothing that the date does not.
 */
const weekday = String.raw`(?:(?:mon|tue|wed|thu|fri|sat|sun)[a-z]{0,6},?\s{1,2})?`;
const month = String.raw`(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)(?:uary|ruary|ch|il|e|y|ust|t|tember|ober|ember)?\.?`;
const hours = String.raw`(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,](\d{1,9}))?)?(?:\s?([ap])\.?m\.?)?`;
const zone = String.raw`(?:\s?(?:(?:GMT|UTC)?([+-]\d{2}:?\d{2})|(Z|GMT|UTC))(?![\w:]))?`;

/** Two ways to write the day before the time, and `ctime`, which has the year behind it. */
const shapes: { pattern: RegExp; parts: readonly [day: number, month: number, year: number, time: number] }[] = [
  {
    pattern: new RegExp(`^\\[?${weekday}(\\d{1,2})[ -]${month}[ -](\\d{4}),?[ T:](?:at )?${hours}${zone}`, 'i'),
    parts: [1, 2, 3, 4],
  },
  {
    pattern: new RegExp(`^\\[?${weekday}${month} {1,2}(\\d{1,2}),? (\\d{4}),?[ T](?:at )?${hours}${zone}`, 'i'),
    parts: [2, 1, 3, 4],
  },
  {
    pattern: new RegExp(`^\\[?${weekday}${month} {1,2}(\\d{1,2}) ${hours}${zone} (\\d{4})(?!\\d)`, 'i'),
    parts: [2, 1, 10, 3],
  },
];

/** What lines that begin with such a time begin with, to its end. */
export const namedHead = new RegExp(`(?:${shapes.map(({ pattern }) => pattern.source).join('|')})\\]?`, 'i');

export interface NamedTime {
  /** Epoch ms. */
  at: number;
  /** It names its zone. */
  zoned: boolean;
}

/**
 * The time that a text begins with.
 * @param zoneMinutes minutes east of UTC where the text names no zone
 * @returns undefined where it begins with none
 * @example namedTime('Mon, 23 Nov 2026 10:00:00 GMT')!.at === Date.UTC(2026, 10, 23, 10)
 */
export function namedTime(text: string, zoneMinutes = 0): NamedTime | undefined {
  const head = text.slice(0, 80);
  for (const { pattern, parts } of shapes) {
    const found = pattern.exec(head);
    if (!found) continue;
    const [day, monthAt, year, time] = parts;
    const [hour, minute, second = '0', fraction, half, offset, named] = found.slice(time) as (string | undefined)[];
    const date = Number(found[day]);
    if (date < 1 || date > 31 || Number(hour) > 23 || Number(minute) > 59) continue;
    // 12 a.m. is midnight.
    const hours24 = half ? (Number(hour) % 12) + (half.toLowerCase() === 'p' ? 12 : 0) : Number(hour);
    const local =
      Date.UTC(Number(found[year]), months.indexOf(found[monthAt]!.toLowerCase()), date, hours24, Number(minute)) +
      Number(second) * 1000 +
      (fraction ? Number(`0.${fraction}`) * 1000 : 0);
    const told = offset ?? named;
    return { at: local - zoneOf(told, zoneMinutes) * 60_000, zoned: told !== undefined };
  }
  return undefined;
}
