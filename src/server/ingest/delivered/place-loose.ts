import { doubtOf, type Doubted } from '../../../core/placing/doubt.ts';
import type { Loose, Place } from '../../../core/placing/loose.ts';
import { isDoubtful, placedFrom, placeFiles, type Match } from '../../../core/placing/place.ts';
import { reportShift, type Allowed } from '../../../core/placing/report-clock.ts';
import { spacing } from '../../../core/placing/summed-gaps.ts';
import { coversMany, spansMany } from '../../../core/placing/share-out.ts';
import type { Attempt, EvidenceFile } from '../../../core/records.ts';
import { newId } from '../../store/attempts.ts';
import { freshEntry, looseOf, placeOf, type LooseEntry } from './loose-entry.ts';
import type { HeldEvents } from './held-events.ts';
import { firstTiming, materialise } from './materialise.ts';
import { Pictures } from './pictures.ts';
import type { LooseFile } from './read-loose.ts';
import { alignTimed, alignVideos } from './set-clocks.ts';
import { settleDeliveryZones } from './settle-zones.ts';
import { keep, rowOf, type Placed } from './placed.ts';
import { shareOut } from './share-out.ts';
import type { PlacingTools } from './tools.ts';

/**
 * Places files with the attempts of a run: their clocks are settled first, then each goes by what it says, then by what its
 * pictures show; what is of several attempts is shared out by time.
 * @param asked minutes east of UTC for times that name no zone, as a person said
 */
export async function placeLoose(tools: PlacingTools, files: readonly LooseFile[], asked?: number): Promise<Placed> {
  const { store, runId } = tools;
  const entries: LooseEntry[] = [];
  for (const file of files) {
    if (store.files.known(runId, file.name, file.blob)) {
      tools.became?.({ name: file.name, fate: 'known', says: 'the run has it already' });
      continue;
    }
    entries.push(freshEntry(file, newId('f'), file.blob));
  }
  return placeEntries(tools, entries, asked);
}

/** Places files whose bytes are kept. */
export async function placeEntries(
  tools: PlacingTools,
  entries: readonly LooseEntry[],
  asked: number | undefined,
): Promise<Placed> {
  const { store, runId } = tools;
  tools.tell('Placing files', 0, null);
  settleDeliveryZones(tools, entries, asked);
  const out: Placed = { attached: 0, waiting: [], touched: new Set() };
  if (settleReportClock(tools, entries)) tools.tell('Setting the report’s clock', 0, null);
  const attempts = store.attempts.ofRun(runId);
  const byId = new Map(attempts.map((attempt) => [attempt.id, attempt]));
  const places = attempts.map((attempt) => placeOf(attempt, tools));
  const spreading = new Set(entries.filter((entry) => isOfMany(entry, places)).map(({ id }) => id));
  const single = entries.filter(({ id }) => !spreading.has(id));
  const loose = single.map(looseOf);
  const pictures = new Pictures(tools, entries);
  let matches = placeFiles(loose, places);
  if (learnSizes(places, loose, matches)) matches = placeFiles(loose, places);
  // Pictures are compared only where the rest leaves a doubt; decoding is the dear part.
  if (single.some(({ id, file }) => isShown(file) && isDoubtful(matches.get(id)))) {
    for (let round = 0; round < 2; round++) {
      const likeness = await pictures.likeness(matches);
      matches = placeFiles(loose, places, likeness);
    }
  }
  const nameOf = (id: string): string => {
    const attempt = byId.get(id)!;
    return `“${attempt.test.title}” (${attempt.environment.key}, try ${attempt.number})`;
  };
  const rows: { file: EvidenceFile; events: HeldEvents; attempt?: Attempt }[] = [];
  for (const entry of single) {
    const { file, id } = entry;
    const found = matches.get(id) ?? [];
    const best = found[0];
    const sure = best !== undefined && best.score >= placedFrom;
    const attempt = sure ? byId.get(best.place) : undefined;
    settleSpan(entry, attempt);
    if (!sure) {
      const doubt = doubtOf(
        { matches: found, span: entry.spans[0], zone: file.facts.zone?.how === 'doubtful' ? guessOf(file) : undefined },
        places,
        nameOf,
      );
      file.facts = { ...file.facts, doubt };
      const why = `${doubt.words}; ${doubt.settles}`;
      out.waiting.push({ name: file.name, why });
      tools.became?.({ name: file.name, fate: 'waits', says: why });
    }
    const timing = attempt && firstTiming(file, attempt);
    const row = rowOf(tools, entry, {
      state: sure ? 'placed' : 'waiting',
      attemptId: attempt?.id ?? null,
      score: best?.score ?? 0,
      reasons: best?.reasons ?? [],
      candidates: found.map(({ place, score, reasons }) => ({ attemptId: place, score, reasons })),
      placedBy: sure ? (best.named ? 'report' : 'evidence') : '',
      offsetMs: timing?.offsetMs ?? null,
      offsetWithin: timing?.within ?? null,
      offsetHow: timing?.how ?? '',
    });
    rows.push({ file: row, events: file.events, ...(attempt ? { attempt } : {}) });
  }
  await alignVideos(tools, rows, pictures);
  pictures.letGo();
  alignTimed(tools, rows);
  store.inPieces(rows, ({ file, events, attempt }) => {
    if (!keep(tools, file, out.touched) || !attempt) return;
    store.events.write(attempt.id, materialise(file, events.all, attempt, { offsetMs: file.offsetMs ?? 0 }));
    out.attached++;
    out.touched.add(attempt.id);
    tools.became?.({ name: file.name, fate: 'placed', says: nameOf(attempt.id), attemptId: attempt.id });
  });
  for (const entry of entries) if (spreading.has(entry.id)) shareOut(tools, entry, attempts, out);
  return out;
}

/** What the pictures of an attempt show of its window's size, where nothing told it. @returns whether any was learnt */
function learnSizes(places: Place[], loose: readonly Loose[], matches: ReadonlyMap<string, Match[]>): boolean {
  const sizes = new Map<Place, { width: number; height: number }>();
  for (const place of places) {
    if (place.environment.width) continue;
    const own = loose.filter(({ id, kind, width }) => {
      const best = matches.get(id)?.[0];
      return kind === 'moment' && width && best?.place === place.id && best.score >= placedFrom;
    });
    const [first] = own;
    if (!first || own.some(({ width, height }) => width !== first.width || height !== first.height)) continue;
    sizes.set(place, { width: first.width!, height: first.height! });
  }
  // Where all windows are alike their size tells nothing.
  if (new Set([...sizes.values()].map(({ width, height }) => `${width}x${height}`)).size < 2) return false;
  for (const [place, size] of sizes) place.environment = { ...place.environment, ...size };
  return true;
}

/** Of the ways its times may be meant the one that lies in its attempt most is kept. */
function settleSpan(entry: LooseEntry, attempt: Attempt | undefined): void {
  const { spans, file } = entry;
  if (!spans.length) return;
  const inside = ({ from, until }: { from: number; until: number }): number =>
    attempt ? Math.min(until, attempt.startedAt + attempt.durationMs) - Math.max(from, attempt.startedAt) : 0;
  const best = spans.reduce((one, other) => (inside(other) > inside(one) ? other : one));
  entry.spans = [best];
  if (best.source === 'content') file.facts = { ...file.facts, told: 'content' };
  else if (file.kind === 'picture' || file.kind === 'video')
    file.facts = { ...file.facts, from: best.from, until: best.until, told: best.source };
}

/** The zones that its times may be of. */
const guessOf = ({ facts: { zone } }: LooseFile): Doubted['zone'] => ({
  minutes: zone!.minutes,
  others: (zone!.others ?? []).map((minutes) => ({ minutes })),
});

/** Whether a log, HAR, trace or video is of several attempts, one after the other. */
function isOfMany({ file, spans }: LooseEntry, places: readonly ReturnType<typeof placeOf>[]): boolean {
  const [span] = spans;
  if (!span || spans.length > 1) return false;
  // What the report names for one attempt, or a path that has one test’s name, is of that attempt.
  if (places.some((place) => place.attachments.some((path) => path.endsWith(file.name.split('/').at(-1)!))))
    return false;
  if (file.kind === 'video') return spansMany(span, places);
  if (file.kind !== 'log' && file.kind !== 'har' && file.kind !== 'trace') return false;
  if (span.source !== 'content') return false;
  return (
    spansMany(span, places) ||
    coversMany(
      file.events.all.map(({ at }) => at),
      places,
    )
  );
}

/** Finds from named files when the attempts of a report really were, where the report only added up durations. */
function settleReportClock(tools: PlacingTools, entries: readonly LooseEntry[]): boolean {
  const { store } = tools;
  const attempts = store.attempts.ofRun(tools.runId).filter((attempt) => attempt.labels.summed);
  const timed = entries.filter(({ spans }) => spans.length === 1);
  if (!attempts.length || !timed.length) return false;
  const places = attempts.map((attempt) => ({ ...placeOf(attempt, tools), timed: false }));
  const matches = placeFiles(
    timed.map((entry) => ({ ...looseOf(entry), spans: [] })),
    places,
  );
  const reports = new Map<string, Allowed[]>();
  for (const { id, spans } of timed) {
    const best = matches.get(id)?.[0];
    if (!best || best.score < placedFrom) continue;
    const attempt = attempts.find((one) => one.id === best.place)!;
    const allowed = {
      from: spans[0]!.from - attempt.startedAt - attempt.durationMs,
      until: spans[0]!.until - attempt.startedAt,
    };
    const known = reports.get(attempt.labels.summed!);
    if (known) known.push(allowed);
    else reports.set(attempt.labels.summed!, [allowed]);
  }
  let changed = spaceOut(tools, attempts, entries);
  for (const [report, allowed] of reports) {
    const shift = reportShift(allowed);
    if (!shift) continue;
    changed = true;
    const summed = attempts.filter((attempt) => attempt.labels.summed === report);
    store.inPieces(summed, (attempt) => {
      store.intakes.touches(tools.id, attempt.id);
      store.attempts.startedAt(attempt.id, attempt.startedAt + shift);
    });
  }
  if (changed) store.runs.beganWithItsFirst(tools.runId);
  return changed;
}

/** What a report cuts off times that it writes in whole seconds, ms. */
const cutToSeconds = 1000;

/** Sets tests that a report only added up apart by what its runner spends between them, where the files show it. */
function spaceOut(
  { store, id, spaced, fresh }: PlacingTools,
  attempts: readonly Attempt[],
  entries: readonly LooseEntry[],
): boolean {
  const spans = entries.flatMap((entry) => (entry.spans.length === 1 && entry.spans[0]!.firm ? entry.spans : []));
  let changed = false;
  for (const report of new Set(attempts.map(({ labels }) => labels.summed))) {
    const own = attempts.filter(({ labels }) => labels.summed === report).sort((a, b) => a.startedAt - b.startedAt);
    // Those that came before have been set apart already.
    if (!own.every((attempt) => fresh?.has(attempt.id))) continue;
    const shifts = spacing(
      spans,
      own.map(({ startedAt, durationMs }) => ({ from: startedAt, until: startedAt + durationMs })),
      (own[0]?.startedAt ?? 1) % cutToSeconds === 0 ? cutToSeconds : 0,
    );
    if (!shifts) continue;
    changed = true;
    store.inPieces(
      own.map((attempt, i) => ({ attempt, ...shifts[i]! })),
      ({ attempt, by, within }) => {
        spaced?.set(attempt.id, within);
        store.intakes.touches(id, attempt.id);
        store.attempts.startedAt(attempt.id, attempt.startedAt + by);
      },
    );
  }
  return changed;
}

const isShown = (file: LooseFile): boolean => file.kind === 'video' || file.kind === 'picture';
