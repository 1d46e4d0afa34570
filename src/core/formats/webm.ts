import type { VideoStructure } from './video-structure.ts';

/**
 * WebM and Matroska, read for their structure: size, codec, duration and the time of every frame.
 * After RFC 8794 (EBML) and RFC 9559 (Matroska). A file that breaks off is read as far as it goes.
 */
const ids = {
  ebml: 0x1a45dfa3,
  segment: 0x18538067,
  info: 0x1549a966,
  scale: 0x2ad7b1,
  duration: 0x4489,
  date: 0x4461,
  tracks: 0x1654ae6b,
  track: 0xae,
  trackNumber: 0xd7,
  trackType: 0x83,
  codec: 0x86,
  defaultDuration: 0x23e383,
  video: 0xe0,
  width: 0xb0,
  height: 0xba,
  cluster: 0x1f43b675,
  time: 0xe7,
  simpleBlock: 0xa3,
  blockGroup: 0xa0,
  block: 0xa1,
  tags: 0x1254c367,
  attachments: 0x1941a469,
  title: 0x7ba9,
  fileName: 0x7384,
  trackName: 0x536e,
} as const;

const masters = new Set<number>([ids.segment, ids.info, ids.tracks, ids.track, ids.video, ids.cluster, ids.blockGroup]);
/** Seconds from the epoch to 2001-01-01, where Matroska's dates begin. */
const matroskaEpochMs = 978_307_200_000;

export const isWebm = (b: Uint8Array): boolean =>
  b.length > 4 && b[0] === 0x1a && b[1] === 0x45 && b[2] === 0xdf && b[3] === 0xa3;

interface Element {
  id: number;
  start: number;
  data: number;
  end: number;
  whole: boolean;
}

/**
 * Walks the elements of a file in the order they stand, masters before what they hold. Going flatly
 * from one to the next needs no sizes of masters, which live recordings leave unknown.
 */
function* elements(b: Uint8Array): Generator<Element> {
  let at = 0;
  while (at < b.length) {
    const id = vint(b, at, b.length, false);
    const size = id && vint(b, at + id.length, b.length, true);
    if (!id || !size) return;
    const data = at + id.length + size.length;
    const master = masters.has(id.value);
    const told = size.unknown ? b.length : data + size.value;
    yield { id: id.value, start: at, data, end: Math.min(told, b.length), whole: master || told <= b.length };
    at = master ? data : told;
  }
}

function vint(
  b: Uint8Array,
  at: number,
  to: number,
  strip: boolean,
): { value: number; length: number; unknown: boolean } | undefined {
  if (at >= to) return undefined;
  const first = b[at]!;
  const length = Math.clz32(first) - 23;
  if (length > 8 || at + length > to) return undefined;
  let value = strip ? first & (0xff >> length) : first;
  let ones = (first & (0xff >> length)) === 0xff >> length;
  for (let i = 1; i < length; i++) {
    value = value * 256 + b[at + i]!;
    ones &&= b[at + i] === 0xff;
  }
  return { value, length, unknown: strip && ones };
}

const unsigned = (b: Uint8Array, { data, end }: Element): number => {
  let value = 0;
  for (let at = data; at < end; at++) value = value * 256 + b[at]!;
  return value;
};
const float = (b: Uint8Array, { data, end }: Element): number => {
  const view = new DataView(b.buffer, b.byteOffset + data, end - data);
  return end - data === 4 ? view.getFloat32(0) : end - data === 8 ? view.getFloat64(0) : 0;
};

/** @throws Error when it is no WebM at all, or has no video in it */
export function readWebm(b: Uint8Array): VideoStructure {
  if (!isWebm(b)) throw new Error('this is no WebM or Matroska file');
  const out: VideoStructure = { width: 0, height: 0, codec: '', durationMs: 0, durationTold: false, frames: [] };
  let scale = 1_000_000;
  let ticks = 0;
  let clusterTime = 0;
  let videoTrack: number | undefined;
  let track = { number: 0, type: 0 };
  let defaultMs = 0;
  let broken = false;
  for (const element of elements(b)) {
    broken ||= !element.whole;
    switch (element.id) {
      case ids.scale:
        scale = unsigned(b, element) || scale;
        break;
      case ids.duration:
        ticks = float(b, element);
        break;
      case ids.date:
        out.writtenAt = matroskaEpochMs + Number(signed64(b, element)) / 1e6;
        break;
      case ids.track:
        track = { number: 0, type: 0 };
        break;
      case ids.trackNumber:
        track.number = unsigned(b, element);
        break;
      case ids.trackType:
        track.type = unsigned(b, element);
        break;
      case ids.defaultDuration:
        defaultMs = unsigned(b, element) / 1e6;
        break;
      case ids.codec:
        if (!out.codec || track.type === 1)
          out.codec = new TextDecoder().decode(b.subarray(element.data, element.end)).slice(0, 40);
        break;
      case ids.video:
        videoTrack ??= track.number;
        break;
      case ids.width:
        out.width ||= unsigned(b, element);
        break;
      case ids.height:
        out.height ||= unsigned(b, element);
        break;
      case ids.time:
        clusterTime = unsigned(b, element);
        break;
      case ids.simpleBlock:
      case ids.block: {
        const number = vint(b, element.data, element.end, true);
        if (!number || element.data + number.length + 2 > element.end || !element.whole) break;
        if (videoTrack !== undefined && number.value !== videoTrack) break;
        const at = element.data + number.length;
        const relative = (((b[at]! << 8) | b[at + 1]!) << 16) >> 16;
        if (out.frames.length < 1_000_000) out.frames.push(((clusterTime + relative) * scale) / 1e6);
        break;
      }
    }
  }
  if (videoTrack === undefined && out.frames.length === 0)
    throw new Error('the file holds no video that can be read; it breaks off before its first frame or has only sound');
  out.frames.sort((x, y) => x - y);
  const gap = out.frames.length > 1 ? (out.frames.at(-1)! - out.frames[0]!) / (out.frames.length - 1) : defaultMs || 40;
  out.durationTold = ticks > 0;
  out.durationMs = ticks > 0 ? (ticks * scale) / 1e6 : (out.frames.at(-1) ?? 0) + (defaultMs || gap);
  if (broken) out.problem = `the file breaks off after ${out.frames.length} frames`;
  return out;
}

function signed64(b: Uint8Array, { data, end }: Element): bigint {
  return end - data === 8 ? new DataView(b.buffer, b.byteOffset + data, 8).getBigInt64(0) : 0n;
}

const texts = new Set<number>([ids.tags, ids.attachments, ids.title, ids.fileName, ids.trackName]);

/**
 * Overwrites the texts of a video (tags, titles, attachments) by void elements of the same length, so that no place in
 * it moves. @returns the same bytes
 */
export function withoutWebmTexts<T extends Uint8Array>(out: T): T {
  for (const { start, data, end } of [...elements(out)].filter(({ id }) => texts.has(id))) {
    const length = end - start;
    if (length < 2) continue;
    const sizeLength = length - 2 < 127 ? 1 : 8;
    if (length < 1 + sizeLength) {
      out.fill(0, data, end);
      continue;
    }
    out.fill(0, start, end);
    out[start] = 0xec;
    const size = length - 1 - sizeLength;
    if (sizeLength === 1) out[start + 1] = 0x80 | size;
    else {
      out[start + 1] = 0x01;
      for (let i = 0; i < 7; i++) out[start + 8 - i] = Math.floor(size / 256 ** i) & 0xff;
    }
  }
  return out;
}
