import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import type { Attempt, EvidenceFile, FileKind } from '../../../core/records.ts';
import type { Store } from '../../store/store.ts';

/** The clock of a placed file's events, by which they are found again when it is moved. */
export const clockOf = (file: string): string => `file:${file}`;

export interface Timing {
  /** Start of the file on the attempt's clock, ms, for what has a clock of its own; else what is added to its times. */
  offsetMs: number;
  within: number | null;
  how: string;
}

const second = 1000;

/** Where a file stands on its attempt's clock as long as nothing better is known than what it says of itself. */
export function firstTiming(
  file: Pick<EvidenceFile, 'kind' | 'facts'>,
  attempt: Pick<Attempt, 'startedAt' | 'durationMs' | 'outcome'>,
): Timing {
  const { from, until, durationMs, told, zone, skew } = file.facts;
  const how =
    told === 'name'
      ? 'by the time in its name'
      : told === 'content'
        ? 'by the time written in it'
        : 'by when its file was written';
  switch (file.kind) {
    case 'video':
      return from === undefined
        ? {
            offsetMs: attempt.durationMs - (durationMs ?? 0),
            within: null,
            how: 'it says no time; taken to end with the attempt',
          }
        : { offsetMs: from - attempt.startedAt, within: second, how };
    case 'picture': {
      const at = from;
      return at === undefined ||
        at - attempt.startedAt < -2 * second ||
        at - attempt.startedAt > attempt.durationMs + 5 * second
        ? { offsetMs: attempt.durationMs, within: null, how: 'it says no time; taken to be of the end' }
        : { offsetMs: at - attempt.startedAt, within: second / 2, how };
    }
    case 'cues':
    case 'text':
    case 'markup':
      return { offsetMs: 0, within: null, how: 'it says no time of day; laid from the attempt’s start' };
    default: {
      const end = attempt.startedAt + attempt.durationMs;
      // A clock that is wrong: it is laid inside, as near as can be to what it says.
      const into =
        from === undefined || until === undefined
          ? 0
          : until < attempt.startedAt
            ? attempt.startedAt - from
            : from > end
              ? Math.max(attempt.startedAt - from, end - until)
              : 0;
      const by = [zone?.words, skew?.words].filter(Boolean);
      return into && durationMs === undefined
        ? {
            offsetMs: into,
            within: Math.max(second, Math.abs(into)),
            how: `its clock differs from the report’s by ${(Math.abs(into) / second).toFixed(1)} s or more; laid inside the attempt`,
          }
        : {
            offsetMs: 0,
            within: skew?.within ?? second / 10,
            how: ['by the times written in it', ...by].join('; '),
          };
    }
  }
}

/** Files that tell no time of day: their events begin with the attempt. */
const ownClocks: ReadonlySet<FileKind> = new Set(['cues', 'text', 'markup']);
/** Files without events of their own. */
const eventless: ReadonlySet<FileKind> = new Set(['picture', 'video', 'markup']);

/**
 * The events of a kept file, set on its clock: they are kept as if what names no zone were of UTC.
 * @param by ms that are added to times of day
 */
export async function keptEvents(
  { blobs }: Pick<Store, 'blobs'>,
  { kind, blob }: Pick<EvidenceFile, 'kind' | 'blob'>,
  by: number,
): Promise<EvidenceEvent[]> {
  return eventless.has(kind) ? [] : eventsIn(kind, (await blobs.read(blob)).toString(), by);
}

/** The same, read at once: for threads. Nothing of a file that is gone. */
export function eventsKept(
  { blobs }: Pick<Store, 'blobs'>,
  { kind, blob }: Pick<EvidenceFile, 'kind' | 'blob'>,
  by = 0,
): EvidenceEvent[] {
  const text = eventless.has(kind) ? undefined : blobs.text(blob);
  return text === undefined ? [] : eventsIn(kind, text, by);
}

function eventsIn(kind: FileKind, text: string, by: number): EvidenceEvent[] {
  const events = JSON.parse(text) as EvidenceEvent[];
  return ownClocks.has(kind) || !by ? events : shifted(events, by);
}

/** Events, so much later. */
export const shifted = (events: readonly EvidenceEvent[], by: number): EvidenceEvent[] =>
  events.map((event) => ({
    ...event,
    at: event.at + by,
    ...(event.until === undefined ? {} : { until: event.until + by }),
  }));

/**
 * The events of a file as evidence of an attempt.
 * @param events what was read from it: epoch times for logs, HARs and traces, own times for cues and texts
 */
export function materialise(
  file: Pick<EvidenceFile, 'id' | 'kind' | 'blob' | 'facts'> & { name?: string },
  events: readonly EvidenceEvent[],
  attempt: Pick<Attempt, 'startedAt' | 'environment'>,
  timing: Pick<Timing, 'offsetMs'>,
): EvidenceEvent[] {
  const clock = clockOf(file.id);
  const { offsetMs } = timing;
  const { mime = '', width = 0, height = 0, durationMs } = file.facts;
  if (file.kind === 'picture' || file.kind === 'video') {
    const scale = attempt.environment.width ? width / attempt.environment.width : 1;
    return [
      {
        id: `${file.id}-0`,
        lane: 'screen',
        kind: file.kind === 'video' ? 'video' : 'screenshot',
        at: offsetMs,
        ...(file.kind === 'video' ? { until: offsetMs + (durationMs ?? 0) } : {}),
        clock,
        data: {
          blob: file.blob,
          mime,
          width,
          height,
          scale,
          ...(durationMs ? { durationMs } : {}),
          ...(file.name ? { name: file.name } : {}),
        },
      },
    ];
  }
  const shift = ownClocks.has(file.kind) ? offsetMs : offsetMs - attempt.startedAt;
  return shifted(events, shift).map((event) => ({ ...event, id: `${file.id}-${event.id}`, clock }));
}
