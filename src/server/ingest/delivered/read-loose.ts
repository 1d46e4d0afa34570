import { bareAddress } from '../../../core/formats/address.ts';
import { isOtlp, otlpEvent, readOtlp } from '../../../core/formats/otlp.ts';
import { readHar } from '../../../core/formats/har.ts';
import { readLog, type LogOptions, type LogText } from '../../../core/formats/log-text.ts';
import { readPicture, withoutTexts } from '../../../core/formats/picture.ts';
import { readVtt } from '../../../core/formats/vtt.ts';
import { readVideo, videoMime, withoutVideoTexts } from '../../../core/formats/video.ts';
import type { VideoStructure } from '../../../core/formats/video-structure.ts';
import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import type { Masker } from '../../../core/evidence/masking.ts';
import type { FileFacts, FileKind } from '../../../core/records.ts';
import type { HeldEvents } from './held-events.ts';
import type { SourceKind } from './classify.ts';
import { texts, whole, type Source } from './source.ts';

/** A file that is evidence, read and masked. */
export interface ReadFile {
  name: string;
  kind: FileKind;
  facts: FileFacts;
  /** The bytes that are kept: a picture or video without its texts, or the events as JSON. */
  bytes: Buffer;
  size: number;
  mime: string;
  /** Its events, times in epoch ms; cues and texts, which tell none, in ms of their own clock. */
  events: EvidenceEvent[];
  video?: VideoStructure;
  modifiedAt?: number;
  /** That is what a clock on a wall showed, read as UTC. */
  modifiedLocal?: boolean;
  /** The times of its events name no zone and are read as UTC. */
  local?: { dayless: boolean };
  problems: { line: number | null; message: string }[];
}

/** Not yet anybody's, and kept in the store. */
export interface LooseFile extends Omit<ReadFile, 'events' | 'bytes' | 'problems'> {
  blob: string;
  events: HeldEvents;
}

const mostText = 256 * 1024 ** 2;
const mostPicture = 64 * 1024 ** 2;
/** A video is looked through whole, and cleaned where it lies. */
const mostVideo = 512 * 1024 ** 2;
const mostNote = 64 * 1024;

const wholeText = (source: Source): string => {
  if (source.size > mostText)
    throw new Error(`it has ${Math.round(source.size / 1048576)} MiB; texts are read up to 256 MiB`);
  return [...texts(source)].join('');
};

/** Addresses without what changes: query, fragment, and the name a person signed in with. */
const bare = (url: string): string => bareAddress(url).replace(/\/\/[^/@]*@/, '//');

type Base = Pick<ReadFile, 'name' | 'modifiedAt' | 'modifiedLocal' | 'local'>;

/** Reads a file that is no report and no archive. @throws Error in words when nothing in it can be used */
export function readLoose(source: Source, kind: SourceKind, masker: Masker, options: LogOptions): ReadFile {
  const base: Base = {
    name: masker.text(source.name),
    ...(source.modifiedAt ? { modifiedAt: source.modifiedAt } : {}),
    ...(source.modifiedLocal ? { modifiedLocal: true } : {}),
  };
  switch (kind) {
    case 'picture': {
      const read = whole(source, mostPicture);
      const { mime, width, height } = readPicture(read)!;
      return {
        ...base,
        kind: 'picture',
        facts: { mime, width, height },
        bytes: Buffer.from(withoutTexts(read)),
        size: read.length,
        mime,
        events: [],
        problems: [],
      };
    }
    case 'video': {
      const read = whole(source, mostVideo);
      const video = readVideo(read);
      const mime = videoMime(read)!;
      const { width, height, durationMs, frames, problem } = video;
      const from = video.writtenAt;
      return {
        ...base,
        kind: 'video',
        facts: {
          mime,
          width,
          height,
          durationMs,
          count: frames.length,
          ...(from === undefined ? {} : { from, until: from + durationMs }),
          ...(problem ? { problem } : {}),
        },
        bytes: withoutVideoTexts(read),
        size: read.length,
        mime,
        events: [],
        video,
        problems: problem ? [{ line: null, message: problem }] : [],
      };
    }
    case 'cues': {
      const { cues, problems } = readVtt(wholeText(source));
      const events = cues.map(({ at, until, text }, i): EvidenceEvent => ({
        id: `c${i}`,
        lane: 'note',
        kind: 'note',
        at,
        until,
        clock: 'file',
        data: { label: text },
      }));
      return timed(base, 'cues', events, masker, { durationMs: cues.at(-1)?.until ?? 0 }, problems, true);
    }
    case 'json':
    case 'json-lines':
      return readJson(source, kind, base, masker, options);
    case 'markup': {
      const text = wholeText(source);
      const bytes = Buffer.from(masker.markup(text).slice(0, 8 * 1024 ** 2));
      return {
        ...base,
        kind: 'markup',
        facts: { mime: 'text/html' },
        bytes,
        size: bytes.length,
        mime: 'text/plain',
        events: [],
        problems: [],
      };
    }
    default: {
      // Masked before it is taken apart: a line cut in two may hold a secret whose name is in the other part.
      const text = masker.text(wholeText(source));
      const log = readLog(text, options);
      if (log) {
        return timed({ ...base, ...localOf(log) }, 'log', lineEvents(log), masker, {}, log.problems, false);
      }
      const note: EvidenceEvent = {
        id: 't0',
        lane: 'note',
        kind: 'note',
        at: 0,
        clock: 'file',
        data: { label: text.slice(0, mostNote) },
      };
      return timed(base, 'text', [note], masker, {}, [], true);
    }
  }
}

const localOf = ({ zone, dayless }: LogText): Pick<ReadFile, 'local'> =>
  zone === 'assumed' ? { local: { dayless: dayless ?? false } } : {};

function timed(
  base: Base,
  kind: FileKind,
  events: EvidenceEvent[],
  masker: Masker,
  facts: FileFacts,
  problems: { line: number; message: string }[],
  ownClock: boolean,
): ReadFile {
  const clean = masker.value(events);
  const addresses = [
    ...new Set(
      clean.flatMap((event) =>
        event.lane === 'network'
          ? [bare(event.data.url)]
          : event.lane === 'console'
            ? addressesIn(event.data.text)
            : [],
      ),
    ),
  ].slice(0, 50);
  const span =
    ownClock || !clean.length
      ? {}
      : {
          from: clean.reduce((least, e) => Math.min(least, e.at), Infinity),
          until: clean.reduce((most, e) => Math.max(most, e.until ?? e.at), -Infinity),
        };
  const bytes = Buffer.from(JSON.stringify(clean));
  return {
    ...base,
    kind,
    facts: { ...facts, ...span, count: clean.length, ...(addresses.length ? { addresses } : {}) },
    bytes,
    size: bytes.length,
    mime: 'application/json',
    events: clean,
    problems,
  };
}

const lineEvents = ({ entries }: LogText): EvidenceEvent[] =>
  entries.map(({ at, level, text, source }, i) => ({
    id: `l${i}`,
    lane: 'console',
    kind: 'line',
    at,
    clock: 'file',
    data: { level, text, ...(source ? { source } : {}) },
  }));

/** Addresses named in a text, without their queries. */
export const addressesIn = (text: string): string[] =>
  [...text.slice(0, 20_000).matchAll(/https?:\/\/[^\s"'<>)\]}]+/g)].map((found) =>
    bare(found[0].replace(/(?<![.,;:])[.,;:]+$/, '')),
  );

function readJson(source: Source, kind: SourceKind, base: Base, masker: Masker, options: LogOptions): ReadFile {
  const text = wholeText(source).replace(/^\uFEFF/, '');
  const values: unknown[] = [];
  if (kind === 'json') {
    try {
      values.push(JSON.parse(text));
    } catch (error) {
      throw new Error(`it is not readable as JSON: ${(error as Error).message}`);
    }
  } else {
    for (const line of text.split('\n')) {
      if (!line.trim()) continue;
      try {
        values.push(JSON.parse(line));
      } catch {
        // The log reader below tells broken lines with their numbers.
      }
      if (values.length === 1 && !isOtlp(values[0])) break;
    }
  }
  if (values.some(isOtlp)) {
    const { records, problems } = readOtlp(values);
    return timed(
      base,
      'trace',
      records.map((record, i) => otlpEvent(record, `o${i}`, 0, 'file', new Set())),
      masker,
      {},
      problems,
      false,
    );
  }
  const first = values[0] as { log?: { entries?: unknown } } | undefined;
  if (kind === 'json' && Array.isArray(first?.log?.entries)) {
    const har = readHar(first);
    // The hosts of the pages themselves are the application's own.
    const own = new Set(
      har.exchanges
        .filter(({ data }) => data.type === 'document' || /html/.test(data.mime ?? ''))
        .map(({ data }) => data.host),
    );
    const events = har.exchanges.map(({ at, durationMs, data }, i): EvidenceEvent => ({
      id: `h${i}`,
      lane: 'network',
      kind: 'exchange',
      at,
      until: at + durationMs,
      clock: 'file',
      data: { ...data, request: `h${i}`, own: own.size === 0 || own.has(data.host) },
    }));
    return timed(base, 'har', events, masker, {}, har.problems, false);
  }
  const lines =
    kind === 'json-lines'
      ? text
      : Array.isArray(first)
        ? (first as unknown[]).map((one) => JSON.stringify(one)).join('\n')
        : '';
  const log = lines ? readLog(lines, options) : undefined;
  if (!log) throw new Error('it is JSON of no kind we read: an HTTP archive, OTLP traces, or log lines with times');
  return timed({ ...base, ...localOf(log) }, 'log', lineEvents(log), masker, {}, log.problems, false);
}
