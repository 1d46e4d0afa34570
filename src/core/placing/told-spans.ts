import { timesInPath } from './name-times.ts';
import type { Place, ToldSpan } from './loose.ts';
import { guessZone, hullOf, sureOfZone, type LocalClock, type Span, type ZoneGuess, type ZoneHints } from './zones.ts';

/** What a file tells of when it was: by what is in it, by its name, by when it was last written. */
export interface TimedFile {
  id: string;
  path: string;
  /** `lasting` things cover a time, others are a moment. */
  kind: 'lasting' | 'moment';
  content?: Span & { local: boolean; dayless?: boolean };
  /** When it was last written: its end. */
  written?: { at: number; local: boolean };
  /** How long it lasts, where it tells no times. */
  durationMs?: number;
  /** Moments of its content that belong to known times. */
  anchors?: readonly { at: number; span: Span }[];
}

export type TimeSource = 'content' | 'name' | 'written';

/** The zone of a clock that named none. */
export interface SettledZone extends ZoneGuess {
  sure: boolean;
}

/** Zones found for a delivery. */
export interface Zones {
  /** Of the report, where its own times name none and others tell. */
  report?: SettledZone;
  /** By `clockOf`. */
  clocks: Map<string, SettledZone>;
}

/** Files whose names or contents come from one clock: numbers left out, names of one kind are alike. */
export function clockOf(file: Pick<TimedFile, 'path'>, source: TimeSource): string {
  if (source === 'written') return 'written';
  return `${source}:${file.path.replace(/\d+/g, '#').toLowerCase()}`;
}

/** Its times that name no zone, by source, as if they were of UTC. */
function localTimes(file: TimedFile): { source: TimeSource; span: Span }[] {
  const out: { source: TimeSource; span: Span }[] = [];
  if (file.content?.local) out.push({ source: 'content', span: file.content });
  const [named] = timesInPath(file.path);
  if (named && !named.zoned) out.push({ source: 'name', span: { from: named.at, until: named.at } });
  if (file.written?.local) out.push({ source: 'written', span: { from: file.written.at, until: file.written.at } });
  return out;
}

/** Its times that leave no doubt of their zone. */
function zonedTimes(file: TimedFile): Span[] {
  if (file.content && !file.content.local) return [file.content];
  const [named] = timesInPath(file.path);
  return named?.zoned ? [{ from: named.at, until: named.at }] : [];
}

/**
 * Finds the zones of all clocks of a delivery that name none, the report's among them.
 * @param places the attempts, with their times as read
 * @param told zone of the report, minutes; null when its times name none
 */
export function settleZones(
  files: readonly TimedFile[],
  places: readonly Pick<Place, 'from' | 'until' | 'timed'>[],
  told: number | null | undefined,
): Zones {
  const windows = places.filter((place) => place.timed);
  const zones: Zones = { clocks: new Map() };
  if (!windows.length) return zones;
  let hints: ZoneHints = { report: told ?? undefined };
  let spans: readonly Span[] = windows;
  if (told === null) {
    const beside = files.flatMap(zonedTimes);
    const found = beside.length ? guessZone({ spans: [hullOf(windows)] }, [hullOf(beside)]) : undefined;
    if (found) zones.report = { ...found, sure: found.probability >= sureOfZone };
    const ahead = zones.report?.sure ? zones.report.minutes : 0;
    spans = windows.map(({ from, until }) => ({ from: from - ahead * 60_000, until: until - ahead * 60_000 }));
    // A log that names no zone either is likeliest written by the clock that the report was written by.
    hints = { report: ahead };
  }
  const clocks = new Map<string, LocalClock & { spans: Span[]; anchors: { at: number; span: Span }[] }>();
  for (const file of files)
    for (const { source, span } of localTimes(file)) {
      const key = clockOf(file, source);
      const clock = clocks.get(key) ?? {
        spans: [],
        anchors: [],
        ...(source === 'content' && file.content?.dayless ? { dayless: true } : {}),
      };
      clock.spans.push(span);
      if (source === 'content') clock.anchors.push(...(file.anchors ?? []));
      clocks.set(key, clock);
    }
  // What is sure of one clock makes the others surer.
  for (let round = 0; round < 2; round++) {
    const others = [...zones.clocks.values()].filter(({ sure }) => sure).map(({ minutes }) => minutes);
    for (const [key, clock] of clocks) {
      if (zones.clocks.get(key)?.sure) continue;
      const found = guessZone(clock, spans, { ...hints, others });
      if (found) zones.clocks.set(key, { ...found, sure: found.probability >= sureOfZone });
    }
  }
  return zones;
}

/** Files that were copied were written at once, or long after: theirs are no times of their own. */
const apartMs = 2000;
const leastOwn = 0.5;

/** Whether the times of writing in a delivery are those at which its files came about: apart, and while the tests ran. */
export function areOwnTimes(
  files: readonly TimedFile[],
  zones: Zones,
  places: readonly Pick<Place, 'from' | 'until' | 'timed'>[],
): boolean {
  const windows = places.filter((place) => place.timed);
  if (!windows.length) return false;
  const hull = hullOf(windows);
  const times = files.flatMap((file) => {
    if (!file.written) return [];
    const zone = file.written.local ? zones.clocks.get(clockOf(file, 'written')) : undefined;
    return file.written.local && !zone?.sure ? [] : [file.written.at - (zone?.minutes ?? 0) * 60_000];
  });
  if (!times.length) return false;
  const own = times.filter((at) => at >= hull.from - apartMs && at <= hull.until + 5 * apartMs);
  if (own.length < times.length * leastOwn) return false;
  return times.length === 1 || Math.max(...own) - Math.min(...own) > Math.min(apartMs, (hull.until - hull.from) / 4);
}

export interface SourcedSpan extends ToldSpan {
  source: TimeSource;
}

/**
 * What a file's times say it covers, in each way they may be meant: the firmest source that tells. Times whose zone is not
 * sure tell nothing.
 * @param trusted when files were last written is when they came about, see `areOwnTimes`
 */
export function spansOf(file: TimedFile, zones: Zones, trusted = false): SourcedSpan[] {
  const aheadOf = (source: TimeSource, local: boolean): number | undefined => {
    if (!local) return 0;
    const zone = zones.clocks.get(clockOf(file, source));
    return zone?.sure ? zone.minutes * 60_000 : undefined;
  };
  const { content, written, durationMs } = file;
  if (content) {
    const ahead = aheadOf('content', content.local);
    if (ahead !== undefined)
      return [
        { from: content.from - ahead, until: content.until - ahead, firm: true, resolutionMs: 1, source: 'content' },
      ];
  }
  const [named] = timesInPath(file.path);
  const ahead = named && aheadOf('name', !named.zoned);
  if (named && ahead !== undefined) {
    const at = named.at - ahead;
    const base = { firm: true, resolutionMs: named.resolutionMs, source: 'name' } as const;
    if (file.kind === 'moment' || durationMs === undefined) return [{ ...base, from: at, until: at }];
    // A recording is named when it begins, or when it is put away.
    return [
      { ...base, from: at, until: at + durationMs },
      { ...base, from: at - durationMs, until: at },
    ];
  }
  const behind = written && aheadOf('written', written.local);
  if (written && behind !== undefined) {
    const at = written.at - behind;
    const resolutionMs = written.local ? 2000 : written.at % 1000 === 0 ? 1000 : 1;
    const lasts = file.kind === 'moment' ? 0 : (durationMs ?? 0);
    return [{ from: at - lasts, until: at, firm: trusted, resolutionMs, source: 'written' }];
  }
  return [];
}
