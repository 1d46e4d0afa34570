import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import { eventsOf } from '../../../core/evidence/event.ts';
import { reportShift, type Allowed } from '../../../core/placing/report-clock.ts';
import { browserIn, sizeIn } from '../../../core/placing/words.ts';
import { placedFrom, placeFiles, type Loose, type Match, type Place } from '../../../core/placing/place.ts';
import type { Attempt, EvidenceFile } from '../../../core/records.ts';
import { newId } from '../../store/attempts.ts';
import { Pictures } from './pictures.ts';
import { alignTimed, alignVideos } from './set-clocks.ts';
import type { PlacingTools } from './tools.ts';
import { firstTiming, materialise } from './materialise.ts';
import { addressesIn, type LooseFile } from './read-loose.ts';

interface Placed {
  attached: number;
  waiting: { name: string; why: string }[];
  touched: Set<string>;
}

/** Places files with the attempts of a run: by what each says, then by what their pictures show; and puts each on its attempt's clock. */
export async function placeLoose(tools: PlacingTools, files: readonly LooseFile[]): Promise<Placed> {
  const { store, runId } = tools;
  const out: Placed = { attached: 0, waiting: [], touched: new Set() };
  const entries: { file: LooseFile; loose: Loose; id: string; blob: string }[] = [];
  for (const file of files) {
    const blob = file.blob ?? (await store.blobs.keep(file.bytes, file.mime));
    if (store.files.known(runId, file.name, blob)) continue;
    const id = newId('f');
    entries.push({ file, id, blob, loose: looseOf(id, file) });
  }
  if (settleReportClock(tools, entries)) tools.tell('Setting the report’s clock', 0, null);
  const attempts = store.attempts.ofRun(runId);
  const byId = new Map(attempts.map((attempt) => [attempt.id, attempt]));
  const places = attempts.map((attempt) => placeOf(attempt, tools));
  const spreading = new Set(entries.filter(({ file }) => coversMany(file, places)).map(({ id }) => id));
  const single = entries.filter(({ id }) => !spreading.has(id));
  const pictures = new Pictures(tools, entries);
  let matches = placeFiles(
    single.map(({ loose }) => loose),
    places,
  );
  // Pictures are compared only where the rest leaves a doubt; decoding is the dear part.
  if (single.some(({ id, file }) => isShown(file) && doubtful(matches.get(id)))) {
    for (let round = 0; round < 2; round++) {
      const likeness = await pictures.likeness(matches);
      matches = placeFiles(
        single.map(({ loose }) => loose),
        places,
        likeness,
      );
    }
  }
  const rows: { file: EvidenceFile; events: EvidenceEvent[]; attempt?: Attempt }[] = [];
  for (const { file, id, blob } of single) {
    const found = matches.get(id) ?? [];
    const best = found[0];
    const sure = best !== undefined && best.score >= placedFrom;
    const attempt = sure ? byId.get(best.place) : undefined;
    const timing = attempt && firstTiming(file, attempt, file.modifiedAt);
    const row = rowOf(tools, file, id, blob, {
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
    if (!sure) out.waiting.push({ name: file.name, why: whyNot(found, byId) });
  }
  await alignVideos(tools, rows, pictures);
  alignTimed(tools, rows);
  store.inPieces(rows, ({ file, events, attempt }) => {
    if (!store.files.add(file) || !attempt) return;
    store.events.write(attempt.id, materialise(file, events, attempt, { offsetMs: file.offsetMs ?? 0 }));
    out.attached++;
    out.touched.add(attempt.id);
  });
  for (const { file, id, blob } of entries.filter((one) => spreading.has(one.id)))
    spread(tools, file, id, blob, attempts, out);
  return out;
}

/** Starts added up from durations leave out what runners do between tests. */
const summedSlack = 1500;

/** Finds from named files when the attempts of a report really were, where the report only added up durations. */
function settleReportClock(tools: PlacingTools, entries: readonly { loose: Loose; id: string }[]): boolean {
  const { store } = tools;
  const attempts = store.attempts.ofRun(tools.runId).filter((attempt) => attempt.labels.summed);
  const timed = entries.filter(({ loose }) => loose.from !== undefined);
  if (!attempts.length || !timed.length) return false;
  const places = attempts.map((attempt) => ({ ...placeOf(attempt, tools), timed: false }));
  const matches = placeFiles(
    timed.map(({ loose }) => loose),
    places,
  );
  const reports = new Map<string, Allowed[]>();
  for (const { id, loose } of timed) {
    const best = matches.get(id)?.[0];
    if (!best || best.score < placedFrom) continue;
    const attempt = attempts.find((one) => one.id === best.place)!;
    const allowed = {
      from: loose.from! - attempt.startedAt - attempt.durationMs,
      until: (loose.until ?? loose.from!) - attempt.startedAt,
    };
    const known = reports.get(attempt.labels.summed!);
    if (known) known.push(allowed);
    else reports.set(attempt.labels.summed!, [allowed]);
  }
  let changed = false;
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

/** False when a path names another browser or size than the attempt's. */
function mayBeOf(path: string, { environment }: Attempt): boolean {
  const browser = browserIn(path);
  if (browser && browserIn(environment.browser) && browserIn(environment.browser) !== browser) return false;
  const size = sizeIn(path);
  return !size || !environment.width || (size.width === environment.width && size.height === environment.height);
}

const isShown = (file: LooseFile): boolean => file.kind === 'video' || file.kind === 'picture';
const doubtful = (matches: readonly Match[] | undefined): boolean => !matches?.length || matches[0]!.score < placedFrom;

function placeOf(attempt: Attempt, { attachments, store }: PlacingTools): Place {
  const opened =
    attempt.source === 'imported'
      ? []
      : eventsOf(store.events.page(attempt.id, { lane: ['step'], limit: 200 }).events, 'step').flatMap((step) =>
          step.data.action === 'open' ? [step.data.input ?? ''] : [],
        );
  return {
    id: attempt.id,
    suite: attempt.test.suite,
    title: attempt.test.title,
    number: attempt.number,
    environment: attempt.environment,
    from: attempt.startedAt,
    until: attempt.startedAt + attempt.durationMs,
    timed: !attempt.labels.untimed,
    ...(attempt.labels.summed ? { slack: summedSlack } : {}),
    failed: attempt.outcome === 'failed' || attempt.outcome === 'errored',
    attachments: attachments.get(attempt.id) ?? [],
    addresses: addressesIn([attempt.message, ...opened].join('\n')),
  };
}

function looseOf(id: string, file: LooseFile): Loose {
  const { from, until, durationMs, width, height, addresses } = file.facts;
  const moment = file.kind === 'picture' || file.kind === 'markup' || file.kind === 'text';
  const at = moment && file.modifiedAt !== undefined ? { from: file.modifiedAt, until: file.modifiedAt } : {};
  return {
    id,
    path: file.name,
    kind: moment ? 'moment' : 'lasting',
    ...at,
    ...(from === undefined ? {} : { from, until: until ?? from }),
    ...(durationMs === undefined ? {} : { durationMs }),
    ...(width && height ? { width, height } : {}),
    ...(addresses ? { addresses } : {}),
  };
}

/** A log or HAR of the whole run covers several attempts one after the other. */
function coversMany({ kind, facts }: LooseFile, places: readonly Place[]): boolean {
  if ((kind !== 'log' && kind !== 'har' && kind !== 'trace') || facts.from === undefined || facts.until === undefined)
    return false;
  const { from, until } = facts;
  const inside = places
    .filter(
      (place) => place.timed && place.from >= from - 2000 && place.until <= until + 2000 && place.until > place.from,
    )
    .sort((a, b) => a.until - b.until);
  let last = -Infinity;
  let apart = 0;
  for (const place of inside) {
    if (place.from < last) continue;
    apart++;
    last = place.until;
  }
  return apart >= 2;
}

function whyNot(found: readonly Match[], attempts: ReadonlyMap<string, Attempt>): string {
  const [first, second] = found;
  if (!first)
    return 'neither its name, its time nor what is in it points to an attempt of this run; it waits in the tray';
  const name = (match: Match): string => {
    const attempt = attempts.get(match.place)!;
    return `“${attempt.test.title}” (${attempt.environment.key}, try ${attempt.number}, ${Math.round(match.score * 100)} %)`;
  };
  return second
    ? `it could be of ${name(first)} or of ${name(second)}; it waits in the tray`
    : `it is perhaps of ${name(first)}, which is not sure enough; it waits in the tray`;
}

function rowOf(
  tools: PlacingTools,
  file: LooseFile,
  id: string,
  blob: string,
  rest: Omit<EvidenceFile, 'id' | 'intakeId' | 'runId' | 'name' | 'kind' | 'blob' | 'size' | 'facts'>,
): EvidenceFile {
  const facts =
    file.modifiedAt !== undefined && file.facts.from === undefined && file.kind === 'picture'
      ? { ...file.facts, from: file.modifiedAt }
      : file.facts;
  return {
    id,
    intakeId: tools.id,
    runId: tools.runId,
    name: file.name,
    kind: file.kind,
    blob,
    size: file.size,
    facts,
    ...rest,
  };
}

/** Lays a log, HAR or trace of the whole run on every attempt in whose time its parts fall. */
function spread(
  tools: PlacingTools,
  file: LooseFile,
  id: string,
  blob: string,
  attempts: readonly Attempt[],
  out: Placed,
): void {
  const { store } = tools;
  const ordered = [...file.events].sort((a, b) => a.at - b.at);
  let laid = 0;
  let used = 0;
  const row = rowOf(tools, file, id, blob, {
    state: 'spread',
    attemptId: null,
    score: 1,
    reasons: [],
    candidates: [],
    placedBy: 'evidence',
    offsetMs: 0,
    offsetWithin: 100,
    offsetHow: 'by the times written in it',
  });
  const parts: [string, EvidenceEvent[]][] = [];
  for (const attempt of attempts) {
    if (attempt.labels.untimed || !mayBeOf(file.name, attempt)) continue;
    const end = attempt.startedAt + attempt.durationMs;
    const part = ordered.filter((event) => event.at >= attempt.startedAt && event.at <= end);
    if (!part.length) continue;
    laid++;
    used += part.length;
    parts.push([attempt.id, materialise(row, part, attempt, { offsetMs: 0 })]);
  }
  if (!laid) {
    row.state = 'waiting';
    out.waiting.push({ name: file.name, why: 'its times are outside every attempt of this run; it waits in the tray' });
  } else row.reasons = [`its times cover ${laid} attempts; ${used} of its ${file.events.length} entries fall in one`];
  if (!store.together(() => store.files.add(row))) return;
  store.inPieces(parts, ([attempt, part]) => {
    store.events.write(attempt, part);
    out.touched.add(attempt);
  });
  if (laid) out.attached++;
}
