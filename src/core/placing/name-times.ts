import { epochOf } from '../formats/times.ts';
import { zoneOf } from '../formats/zone-text.ts';

/** A time that a file's name tells. */
export interface NameTime {
  /** Epoch ms; where no zone is told, as if it were UTC. */
  at: number;
  /** A zone is told, or it is a count since 1970. */
  zoned: boolean;
  /** What the name cuts off: 1 ms, 1000 for whole seconds, 60000 for whole minutes. */
  resolutionMs: number;
}

/** Between the parts of a date or a time any one of these may stand. */
const gap = '[-_.:\\u2236 ]?';
const dated = new RegExp(
  String.raw`(?<!\d)(20\d{2})${gap}(0[1-9]|1[0-2])${gap}(0[1-9]|[12]\d|3[01])(?:[Tt]|[-_.+,@ ]{1,3}(?:at[ _])?|)([01]\d|2[0-3])${gap}([0-5]\d)(?:${gap}([0-5]\d)(?:[-_.,:](\d{3,6})(?!\d))?)?(?: ?(Z|UTC|GMT|[+-]\d{2}[:_]?\d{2})(?![\d\w]))?`,
  'g',
);
const dayFirst = new RegExp(
  String.raw`(?<!\d)(0[1-9]|[12]\d|3[01])[-_.](0[1-9]|1[0-2])[-_.](20\d{2})[-_.T, ]{1,3}([01]\d|2[0-3])${gap}([0-5]\d)(?:${gap}([0-5]\d)(?:[-_.,:](\d{3,6})(?!\d))?)?`,
  'g',
);
/** Not within the hexadecimal names that recorders give, `a9bb-1795414707`. */
const counted = /(?<![\d.]|[a-f\d]{4}-|[a-f]{2})(\d{10}(?:\.\d{1,6})?|\d{13}|\d{16})(?![\da-f])/gi;

/**
 * The times a path tells, the last part of the path first: ISO with any separators, packed, with the day first, or counted
 * since 1970 in seconds, milliseconds or microseconds.
 * @example timesInPath('shots/2026-11-23T06-17-54-789Z.png')[0]!.at === Date.UTC(2026, 10, 23, 6, 17, 54, 789)
 */
export function timesInPath(path: string): NameTime[] {
  return path
    .slice(-500)
    .split('/')
    .reverse()
    .flatMap((part) => [...timesIn(part)]);
}

function* timesIn(part: string): Generator<NameTime> {
  for (const found of part.matchAll(dated)) {
    const [, year, month, day, hour, minute, second, fraction, zone] = found;
    yield read([year!, month!, day!], [hour!, minute!, second, fraction], zone);
  }
  for (const found of part.matchAll(dayFirst)) {
    const [, day, month, year, hour, minute, second, fraction] = found;
    yield read([year!, month!, day!], [hour!, minute!, second, fraction], undefined);
  }
  for (const [, digits] of part.matchAll(counted)) {
    const at = epochOf(Number(digits));
    // Ten digits may be anything's number; those of some twenty years around are likelier a time.
    if (at !== undefined && at > earliest) yield { at, zoned: true, resolutionMs: digits!.length === 10 ? 1000 : 1 };
  }
}

const earliest = Date.UTC(2015, 0);

function read(
  [year, month, day]: [string, string, string],
  [hour, minute, second, fraction]: [string, string, string | undefined, string | undefined],
  zone: string | undefined,
): NameTime {
  const local = Date.UTC(
    Number(year),
    Number(month) - 1,
    Number(day),
    Number(hour),
    Number(minute),
    Number(second ?? 0),
  );
  const at = local + (fraction ? Math.floor(Number(`0.${fraction}`) * 1000) : 0);
  return {
    at: at - zoneOf(zone?.replace('_', ':')) * 60_000,
    zoned: zone !== undefined,
    resolutionMs: fraction ? 1 : second ? 1000 : 60_000,
  };
}
