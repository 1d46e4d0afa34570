import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import type { Environment, Outcome } from '../evidence/attempt.ts';
import { outcomes } from '../evidence/attempt.ts';
import { lanes, type EvidenceEvent } from '../evidence/event.ts';

/**
 * The evidence pack: one attempt as a zip, documented in docs/pack.md.
 * `pack.json` (what is known of the attempt), `events.jsonl` (one event a line), `blobs/{sha-256}`.
 */
export const packVersion = 1;

export interface PackedAttempt {
  run: { name: string; startedAt: number; commit?: string; branch?: string };
  test: { suite: string; title: string; file?: string };
  /** Left out, it is the next of its test in the run. */
  number?: number;
  outcome: Outcome;
  environment: Environment;
  startedAt: number;
  durationMs: number;
  message: string;
  stack: string;
  interruptedBy?: string;
  labels: Record<string, unknown>;
}

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
  const attempt = head.attempt;
  if (!attempt?.test?.title || !attempt.run?.name || !(outcomes as readonly string[]).includes(attempt.outcome))
    throw new Error('pack.json lacks the run, the test or a known outcome');
  const events = strFromU8(files['events.jsonl'])
    .split('\n')
    .filter((line) => line !== '')
    .map((line, i) => readEvent(line, i + 1));
  const blobs = new Map<string, { bytes: Uint8Array; mime: string }>();
  for (const [name, { mime }] of Object.entries(head.blobs ?? {})) {
    const content = files[`blobs/${name}`];
    if (content) blobs.set(name, { bytes: content, mime: String(mime) });
  }
  return { attempt, events, blobs };
}

function readEvent(line: string, number: number): EvidenceEvent {
  let event: Partial<EvidenceEvent>;
  try {
    event = JSON.parse(line) as Partial<EvidenceEvent>;
  } catch {
    throw new Error(`events.jsonl, line ${number}: not readable as JSON`);
  }
  const whole =
    typeof event.id === 'string' &&
    typeof event.at === 'number' &&
    Number.isFinite(event.at) &&
    typeof event.kind === 'string' &&
    (lanes as readonly string[]).includes(event.lane ?? '');
  if (!whole || typeof event.data !== 'object' || event.data === null)
    throw new Error(`events.jsonl, line ${number}: an event needs id, lane, kind, at and data`);
  return event as EvidenceEvent;
}
