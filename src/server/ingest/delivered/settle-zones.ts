import { fitClock, pairEvents, type Keyed } from '../../../core/evidence/clocks.ts';
import { timesInPath } from '../../../core/placing/name-times.ts';
import { reportShift } from '../../../core/placing/report-clock.ts';
import { areOwnTimes, clockOf, settleZones, spansOf, type Zones } from '../../../core/placing/told-spans.ts';
import { zoneWords } from '../../../core/placing/zones.ts';
import type { Attempt, FileZone } from '../../../core/records.ts';
import { requestsOf, timedOf, windowOf, type LooseEntry } from './loose-entry.ts';
import type { LooseFile } from './read-loose.ts';
import { searchBudget, spokenIn } from './speaks-of.ts';
import type { PlacingTools } from './tools.ts';

/** Requests that two files saw, before they say anything of each other's clock. */
const leastPairs = 3;
/** No clock of a machine that tests run on is more wrong than this; what differs more is another zone, or another day. */
const mostSkew = 15 * 60_000;
/** Progress is told once in so many files. */
const toldEvery = 25;
/** Clocks that differ by less are the same. */
const noticeable = 200;

/**
 * Finds the zones of a delivery's clocks that name none and sets its files on them; a report that names none is set by the
 * other files. Clocks that are wrong by seconds or minutes are set right where lines or requests show it.
 * @param asked minutes east of UTC, as a person said
 */
export function settleDeliveryZones(
  tools: PlacingTools,
  entries: readonly LooseEntry[],
  asked: number | undefined,
): void {
  let attempts = tools.store.attempts.ofRun(tools.runId);
  const budget = { left: searchBudget };
  const requests = new Requests(entries);
  for (const [i, entry] of entries.entries()) {
    if (i % toldEvery === 0) tools.tell('Reading what files speak of', i, entries.length);
    readNames(entry, attempts, budget);
  }
  const told = zoneOfReport(attempts);
  const zones = settleZones(
    entries.map((entry) => timedOf(entry, anchorsOf(entry, requests))),
    attempts.map(windowOf),
    told,
  );
  if (asked !== undefined)
    for (const entry of entries)
      for (const source of ['content', 'name', 'written'] as const)
        zones.clocks.set(clockOf({ path: entry.file.name }, source), {
          minutes: asked,
          probability: 1,
          others: [],
          sure: true,
        });
  const { report } = zones;
  if (report?.sure && report.minutes !== 0 && !tools.again) {
    tools.tell(`Setting the report’s clock to ${zoneWords(report.minutes)}`, 0, null);
    const { store } = tools;
    const naive = attempts.filter(({ labels }) => labels.zone === null && !labels.untimed);
    store.inPieces(naive, (attempt) => {
      store.intakes.touches(tools.id, attempt.id);
      store.attempts.startedAt(attempt.id, attempt.startedAt - report.minutes * 60_000);
    });
    store.runs.beganWithItsFirst(tools.runId);
    attempts = store.attempts.ofRun(tools.runId);
    const by = -report.minutes * 60_000;
    for (const { anchors } of entries)
      for (const anchor of anchors) anchor.span = { from: anchor.span.from + by, until: anchor.span.until + by };
  }
  const own = areOwnTimes(
    entries.map((entry) => timedOf(entry)),
    zones,
    attempts.map(windowOf),
  );
  for (const entry of entries) {
    setOnZone(entry, zones, told, asked);
    entry.spans = spansOf(timedOf(entry), zones, own);
    // Times whose zone is not sure tell nothing.
    if (entry.file.facts.zone?.how === 'doubtful')
      entry.spans = entry.spans.filter(({ source }) => source !== 'content');
  }
  for (const entry of entries) tellZoneOfName(entry, zones, asked);
  for (const entry of entries) setRight(entry, requests);
}

/** The zone most attempts of a run were told in; null where their times name none, nothing where UTC says nothing of the machine. */
function zoneOfReport(attempts: readonly Attempt[]): number | null | undefined {
  const timed = attempts.filter(({ labels }) => !labels.untimed && labels.zone !== undefined);
  if (!timed.length) return undefined;
  if (timed.every(({ labels }) => labels.zone === null)) return null;
  const counts = new Map<number, number>();
  for (const { labels } of timed) if (labels.zone) counts.set(labels.zone, (counts.get(labels.zone) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
}

/** Which tests and failures a log or text speaks of. */
function readNames(entry: LooseEntry, attempts: readonly Attempt[], budget: { left: number }): void {
  const { file } = entry;
  if (file.kind !== 'log' && file.kind !== 'text' && file.kind !== 'trace') return;
  const { of, anchors } = spokenIn(file.events.all, attempts, budget);
  entry.speaksOf = of;
  entry.anchors = anchors;
}

/** Moments of a file whose zone is not told that belong to known times. */
function anchorsOf(entry: LooseEntry, requests: Requests): LooseEntry['anchors'] {
  if (!entry.file.local) return entry.anchors;
  const pairs = requests.paired(entry);
  return [
    ...entry.anchors,
    ...pairs.map(({ source, target }) => ({ at: source, span: { from: target - 100, until: target + 100 } })),
  ];
}

/** Requests that several files of a delivery saw: recordings of the network, whose zone is told, and logs. */
class Requests {
  /** Recordings whose zone was told from the first. */
  private readonly recordings: readonly LooseFile[];
  private known: Keyed[] | undefined;
  constructor(entries: readonly LooseEntry[]) {
    this.recordings = entries.flatMap(({ file }) => (file.kind === 'har' && !file.local ? [file] : []));
  }

  /** Read where a log has requests to hold against them: those of a large delivery are half a million. */
  private get recorded(): readonly Keyed[] {
    if (this.known) return this.known;
    this.known = [];
    // Each name of a request is held once, however often it was made.
    const keys = new Map<string, string>();
    for (const { events } of this.recordings)
      for (const { key, at } of requestsOf(events.all)) {
        const same = keys.get(key);
        if (same === undefined) keys.set(key, key);
        this.known.push({ key: same ?? key, at });
      }
    return this.known;
  }

  /** Requests of a log that recordings beside it saw too. */
  paired({ file }: LooseEntry): ReturnType<typeof pairEvents> {
    if (!this.recordings.length || (file.kind !== 'log' && file.kind !== 'trace')) return [];
    const own = requestsOf(file.events.all);
    if (own.length < leastPairs) return [];
    const pairs = pairEvents(own, this.recorded);
    return pairs.length >= leastPairs && pairs.length >= own.length * 0.4 ? pairs : [];
  }
}

function setOnZone(entry: LooseEntry, zones: Zones, told: number | null | undefined, asked: number | undefined): void {
  const { file } = entry;
  if (!file.local) return;
  const found = zones.clocks.get(clockOf({ path: file.name }, 'content'));
  if (!found) return;
  const { minutes } = found;
  const words =
    asked !== undefined
      ? `read as ${zoneWords(minutes)}, as was asked for`
      : !found.sure
        ? `its times name no zone; perhaps ${zoneWords(minutes)} (${Math.round(found.probability * 100)} %)`
        : `read as ${zoneWords(minutes)}: ${minutes === told ? 'as the report’s times, and ' : ''}so its times fall into the run`;
  const zone: FileZone = {
    minutes,
    how: asked !== undefined ? 'asked' : found.sure ? 'found' : 'doubtful',
    words,
    ...(found.others.length ? { others: found.others.map((one) => one.minutes) } : {}),
  };
  shift(entry, -minutes * 60_000);
  delete file.local;
  file.facts = { ...file.facts, zone };
}

/** The zone of a time in a name, or in an archive’s list, that names none. */
function tellZoneOfName(entry: LooseEntry, zones: Zones, asked: number | undefined): void {
  const { file, spans } = entry;
  if (file.facts.zone || spans[0]?.source === 'content') return;
  const [named] = timesInPath(file.name);
  const source = named && !named.zoned ? 'name' : !named && file.modifiedLocal ? 'written' : undefined;
  const found = source && zones.clocks.get(clockOf({ path: file.name }, source));
  if (!found) return;
  const { minutes, sure, others } = found;
  file.facts = {
    ...file.facts,
    zone: {
      minutes,
      how: asked !== undefined ? 'asked' : sure ? 'found' : 'doubtful',
      words: `${source === 'name' ? 'the time in its name' : 'the archive’s time of it'} names no zone; ${sure ? 'read as' : 'perhaps'} ${zoneWords(minutes)}`,
      ...(others.length ? { others: others.map((one) => one.minutes) } : {}),
    },
  };
}

function shift({ file, anchors }: LooseEntry, by: number): void {
  if (!by) return;
  for (const anchor of anchors) anchor.at += by;
  file.events.shift(by);
  const { from, until } = file.facts;
  file.facts = {
    ...file.facts,
    ...(from === undefined ? {} : { from: from + by }),
    ...(until === undefined ? {} : { until: until + by }),
  };
}

/** A clock that is wrong by seconds or minutes, where what it saw shows by how much. */
function setRight(entry: LooseEntry, requests: Requests): void {
  const { file } = entry;
  if (file.kind !== 'log' && file.kind !== 'trace') return;
  if (file.facts.zone?.how === 'doubtful') return;
  const fit = fitClock(requests.paired(entry));
  const byRequests = fit && fit.used >= leastPairs && Math.abs(fit.offset) <= mostSkew ? fit.offset : undefined;
  const anchors = byRequests === undefined ? entry.anchors : [];
  const byLines = reportShift(anchors.map(({ at, span }) => ({ from: span.from - at, until: span.until - at })));
  const by = byRequests ?? (Math.abs(byLines) <= mostSkew ? byLines : 0);
  if (Math.abs(by) < noticeable) return;
  shift(entry, by);
  entry.spans = entry.spans.map((span) =>
    span.source === 'content' ? { ...span, from: span.from + by, until: span.until + by } : span,
  );
  const how = byRequests === undefined ? 'lines that name tests' : `${fit!.used} requests that another file saw`;
  file.facts = {
    ...file.facts,
    skew: {
      ms: Math.round(by),
      within: byRequests === undefined ? 1000 : Math.max(50, Math.round(fit!.within)),
      words: `its clock was ${(Math.abs(by) / 1000).toFixed(1)} s ${by > 0 ? 'behind' : 'ahead'}, by ${how}`,
    },
  };
}
