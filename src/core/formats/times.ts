import { namedTime } from './named-times.ts';
import { zoneOf } from './zone-text.ts';

/** Times as texts write them. Everything comes out as epoch milliseconds, fractions kept. */

const iso =
  /^(\d{4})-(\d{2})-(\d{2})(?:[T _](\d{2}):(\d{2})(?::(\d{2})(?:[.,](\d+))?)?)?\s*(Z|UTC|GMT|[+-]\d{2}:?\d{2})?$/i;

/**
 * An ISO-like date and time, or one with its month by name.
 * @param zoneMinutes minutes east of UTC for a text that names no zone; UTC when absent
 * @returns undefined for anything that is no date
 * @example timeOf('2026-11-23T10:00:00.5+02:00') === Date.UTC(2026, 10, 23, 8, 0, 0, 500)
 */
export function timeOf(text: string | undefined, zoneMinutes = 0): number | undefined {
  const found = text && iso.exec(text.trim());
  if (!found) return text ? namedTime(text.trim(), zoneMinutes)?.at : undefined;
  const [, year, month, day, hour = '0', minute = '0', second = '0', fraction = '', zone] = found;
  if (Number(month) < 1 || Number(month) > 12 || Number(day) < 1 || Number(day) > 31) return undefined;
  const base = Date.UTC(Number(year), Number(month) - 1, Number(day), Number(hour), Number(minute), Number(second));
  const ms = fraction ? Number(`0.${fraction}`) * 1000 : 0;
  return base + ms - zoneOf(zone, zoneMinutes) * 60_000;
}

/**
 * The zone a time text tells, minutes east of UTC.
 * @returns undefined where it tells none
 */
export function zoneTold(text: string): number | undefined {
  const found = /(?:Z|UTC|GMT|[+-]\d{2}:?\d{2})$/i.exec(text.trim());
  return found && !/^\d{4}-\d{2}-\d{2}$/.test(text.trim()) ? zoneOf(found[0]) : undefined;
}

/** Epoch seconds, milliseconds, microseconds or nanoseconds, told apart by their size; undefined outside 2001 to 2100. */
export function epochOf(value: number): number | undefined {
  for (const scale of [1000, 1, 1e-3, 1e-6]) {
    const ms = value * scale;
    if (ms > 978_307_200_000 && ms < 4_102_444_800_000) return ms;
  }
  return undefined;
}

/** Times from 1970 to 2200, ms: what lies outside is no time at which a test ran. */
export const latestTime = Date.UTC(2200, 0);
export const isTime = (value: unknown): value is number =>
  typeof value === 'number' && value >= 0 && value <= latestTime;

/**
 * A time as ISO text; what is none, evidence of an older Iskel maybe, becomes the nearest that is.
 * @example isoOf(9e15) // '2200-01-01T00:00:00.000Z'
 */
export const isoOf = (time: number): string =>
  new Date(Math.min(Math.max(Number.isFinite(time) ? time : 0, 0), latestTime)).toISOString();
