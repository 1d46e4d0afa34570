import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import type { EvidenceEvent } from '../evidence/event.ts';
import { readStored } from '../evidence/streamed.ts';
import { readPackedAttempt, type PackedAttempt } from './packed-attempt.ts';

/**
 * The evidence pack: one attempt as a zip, documented in docs/pack.md.
 * `pack.json` (what is known of the attempt), `events.jsonl` (one event a line), `blobs/{sha-256}`.
 */
export const packVersion = 1;

export type { PackedAttempt };

export interface Pack {
  attempt: PackedAttempt;
  events: EvidenceEvent[];
  blobs: Map<string, { bytes: Uint8Array; mime: string }>;
}

/** Largest packs and parts that are read: an attempt of an hour with pictures stays well under. */
const limits = { whole: 512 * 1024 * 1024, entries: 20_000 };

export function writePack(pack: Pack): Uint8Array {
  const files: Record<string, [Uint8Array, { level: 0 | 6 }]> = {};
  const blobs = Object.fromEntries(
    [...pack.blobs].map(([name, { mime, bytes }]) => [name, { mime, size: bytes.length }]),
  );
  files['pack.json'] = [
    strToU8(JSON.stringify({ iskel: packVersion, attempt: pack.attempt, blobs }, null, 1)),
    { level: 6 },
  ];
  files['events.jsonl'] = [strToU8(pack.events.map((event) => JSON.stringify(event)).join('\n')), { level: 6 }];
  // Pictures are compressed already.
  for (const [name, { bytes }] of pack.blobs) files[`blobs/${name}`] = [bytes, { level: 0 }];
  return zipSync(files);
}

/** @throws Error in words for anything that is not a pack this version can read whole */
export function readPack(bytes: Uint8Array): Pack {
  let size = 0;
  let entries = 0;
  const files = unzipSync(bytes, {
    filter: (file) => {
      size += file.originalSize;
      if (++entries > limits.entries || size > limits.whole)
        throw new Error('this pack is larger than an attempt can be; it is not read');
      return file.name === 'pack.json' || file.name === 'events.jsonl' || /^blobs\/[0-9a-f]{64}$/.test(file.name);
    },
  });
  if (!files['pack.json'] || !files['events.jsonl'])
    throw new Error('this zip is no evidence pack: pack.json or events.jsonl is missing');
  const head = JSON.parse(strFromU8(files['pack.json'])) as {
    iskel?: number;
    attempt?: PackedAttempt;
    blobs?: Record<string, { mime: string }>;
  };
  if (head.iskel !== packVersion)
    throw new Error(`this pack is of version ${head.iskel}; this Iskel reads version ${packVersion}`);
  const attempt = readPackedAttempt(head.attempt);
  const events = strFromU8(files['events.jsonl'])
    .split('\n')
    .filter((line) => line !== '')
    .map((line, i) => readPackedEvent(line, i + 1, attempt.startedAt));
  const blobs = new Map<string, { bytes: Uint8Array; mime: string }>();
  for (const [name, { mime }] of Object.entries(head.blobs ?? {})) {
    const content = files[`blobs/${name}`];
    if (content) blobs.set(name, { bytes: content, mime: String(mime) });
  }
  return { attempt, events, blobs };
}

/** One line of `events.jsonl`. @param number of the line @throws Error in words with that number */
export function readPackedEvent(line: string, number: number, startedAt: number): EvidenceEvent {
  try {
    return readStored(JSON.parse(line), startedAt);
  } catch (error) {
    const what = error instanceof SyntaxError ? 'not readable as JSON' : (error as Error).message;
    throw new Error(`events.jsonl, line ${number}: ${what}`);
  }
}
