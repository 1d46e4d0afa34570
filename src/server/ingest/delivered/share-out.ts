import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import { browserIn, sizeIn, workerIn } from '../../../core/placing/words.ts';
import type { Attempt } from '../../../core/records.ts';
import type { LooseEntry } from './loose-entry.ts';
import { firstTiming, materialise } from './materialise.ts';
import { keep, rowOf, type Placed } from './placed.ts';
import type { PlacingTools } from './tools.ts';

/** Lays a log, HAR, trace or video of the whole run on every attempt in whose time its parts fall. */
export function shareOut(tools: PlacingTools, entry: LooseEntry, attempts: readonly Attempt[], out: Placed): void {
  const { store } = tools;
  const { file } = entry;
  const { zone, skew } = file.facts;
  const row = rowOf(tools, entry, {
    state: 'spread',
    attemptId: null,
    score: 1,
    reasons: [],
    candidates: [],
    placedBy: 'evidence',
    offsetMs: 0,
    offsetWithin: skew?.within ?? 100,
    offsetHow: ['by the times written in it', zone?.words, skew?.words].filter(Boolean).join('; '),
  });
  const parts: [string, EvidenceEvent[]][] = [];
  const used = new Set<EvidenceEvent>();
  const ordered = [...file.events.all].sort((a, b) => a.at - b.at);
  for (const attempt of attempts) {
    if (attempt.labels.untimed || !mayBeOf(file.name, attempt)) continue;
    const end = attempt.startedAt + attempt.durationMs;
    if (file.kind === 'video') {
      const [span] = entry.spans;
      if (!span || span.from > attempt.startedAt + 1000 || span.until < end - 1000) continue;
      parts.push([attempt.id, materialise(row, [], attempt, firstTiming(file, attempt))]);
      continue;
    }
    const part = ordered.slice(firstFrom(ordered, attempt.startedAt), firstFrom(ordered, end, true));
    if (!part.length) continue;
    for (const event of part) used.add(event);
    parts.push([attempt.id, materialise(row, part, attempt, { offsetMs: 0 })]);
  }
  if (!parts.length) {
    row.state = 'waiting';
    const doubt = {
      kind: 'outside',
      words: 'its times are outside every attempt of this run',
      settles: 'give it with the report of its own run, or name the run',
    } as const;
    row.facts = { ...row.facts, doubt };
    const why = `${doubt.words}; ${doubt.settles}`;
    out.waiting.push({ name: file.name, why });
    tools.became?.({ name: file.name, fate: 'waits', says: why });
  } else
    row.reasons = [
      file.kind === 'video'
        ? `it was filmed over ${parts.length} attempts`
        : `its times cover ${parts.length} attempts; ${used.size} of its ${ordered.length} entries fall in one`,
    ];
  if (!store.together(() => keep(tools, row, out.touched))) return;
  store.inPieces(parts, ([attempt, part]) => {
    store.events.write(attempt, part);
    out.touched.add(attempt);
  });
  if (!parts.length) return;
  out.attached++;
  tools.became?.({ name: file.name, fate: 'shared', says: `${parts.length} attempts, by its times` });
}

/** Index of the first event at a time, or after it, by bisection: a log of a whole run has very many. */
function firstFrom(ordered: readonly EvidenceEvent[], at: number, after = false): number {
  let [low, high] = [0, ordered.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    const time = ordered[middle]!.at;
    if (time < at || (after && time === at)) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** False when a path names another browser, size or worker than the attempt's. */
function mayBeOf(path: string, { environment, labels }: Attempt): boolean {
  const worker = labels.worker === undefined ? undefined : workerIn(path);
  if (worker !== undefined && worker !== workerIn(`worker ${labels.worker}`)) return false;
  const browser = browserIn(path);
  if (browser && browserIn(environment.browser) && browserIn(environment.browser) !== browser) return false;
  const size = sizeIn(path);
  return !size || !environment.width || (size.width === environment.width && size.height === environment.height);
}
