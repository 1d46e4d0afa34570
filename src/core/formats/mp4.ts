import type { VideoStructure } from './video-structure.ts';

/** MP4 and QuickTime (ISO 14496-12): when each frame of its first video track is shown, whole or in fragments. */

const ascii = (b: Uint8Array, at: number): string =>
  at + 4 <= b.length ? String.fromCharCode(b[at]!, b[at + 1]!, b[at + 2]!, b[at + 3]!) : '';

const openings = new Set(['ftyp', 'moov', 'mdat', 'wide', 'free', 'skip', 'moof', 'styp', 'pnot']);

/** A box begins with its size, which is small for a first one: no text begins with a zero. */
export const isMp4 = (b: Uint8Array): boolean =>
  b[0] === 0 &&
  b.length >= 12 &&
  openings.has(ascii(b, 4)) &&
  (ascii(b, 4) === 'ftyp' || ascii(b, 4) === 'moov' || b.length > 64);

interface Box {
  type: string;
  start: number;
  /** Where its content begins. */
  data: number;
  end: number;
  whole: boolean;
}

/** Boxes that hold boxes, as far as they are looked into. */
const holders = new Set(['moov', 'trak', 'mdia', 'minf', 'stbl', 'edts', 'mvex', 'moof', 'traf']);
const deepest = 12;
const mostBoxes = 200_000;
/** More frames than this are not listed: eleven hours at 25 a second. */
const mostFrames = 1_000_000;

/** Walks the boxes of a file in the order they stand, holders before what they hold. */
function* boxes(b: Uint8Array): Generator<Box & { leaves: string[] }> {
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength);
  const open: Box[] = [];
  let at = 0;
  for (let count = 0; at + 8 <= b.length && count < mostBoxes; count++) {
    const leaves: string[] = [];
    while (open.length && at >= open.at(-1)!.end) leaves.push(open.pop()!.type);
    const limit = open.at(-1)?.end ?? b.length;
    if (at + 8 > limit) {
      at = limit;
      continue;
    }
    let size = view.getUint32(at);
    let data = at + 8;
    if (size === 1 && at + 16 <= limit) {
      size = Number(view.getBigUint64(at + 8));
      data = at + 16;
    } else if (size === 0) size = limit - at;
    if (size < data - at) return;
    const end = Math.min(at + size, limit);
    const box: Box = { type: ascii(b, at + 4), start: at, data, end, whole: at + size <= limit };
    yield { ...box, leaves };
    if (holders.has(box.type) && open.length < deepest) {
      open.push(box);
      at = data;
    } else at = end;
  }
}

interface Track {
  id: number;
  video: boolean;
  width: number;
  height: number;
  codec: string;
  scale: number;
  durations: [count: number, delta: number][];
  offsets: [count: number, offset: number][];
  /** Shown so many ms later, and begun so far into its own time, from the edit list. */
  delayMs: number;
  startsAt: number;
}

const freshTrack = (): Track => ({
  id: 0,
  video: false,
  width: 0,
  height: 0,
  codec: '',
  scale: 0,
  durations: [],
  offsets: [],
  delayMs: 0,
  startsAt: 0,
});
/** Seconds from 1904, where the format begins to count, to 1970. */
const from1904 = 2_082_844_800;
const earliest = Date.UTC(2001, 0);

/** @throws Error in words when it is no MP4, or nothing of it tells when frames are shown */
export function readMp4(b: Uint8Array): VideoStructure {
  if (!isMp4(b)) throw new Error('this is no MP4 or QuickTime file');
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength);
  const read = { tracks: [] as Track[], movieScale: 1000, movieTicks: 0, created: 0, broken: false, indexed: false };
  const times: number[] = [];
  const defaults = new Map<number, number>();
  let fragment = { id: 0, duration: 0, next: 0 };
  const reached = new Map<number, number>();
  const byId = (id: number): Track | undefined => read.tracks.find((one) => one.id === id);
  const main = (): Track | undefined => read.tracks.find((one) => one.video);
  for (const box of boxes(b)) {
    const { type, data, end } = box;
    const room = end - data;
    read.broken ||= !box.whole;
    const full = room >= 4 ? { version: b[data]!, flags: view.getUint32(data) & 0xffffff } : { version: 0, flags: 0 };
    const track = read.tracks.at(-1);
    switch (type) {
      case 'moov':
        read.indexed = true;
        break;
      case 'mvhd': {
        const long = full.version === 1;
        if (room < (long ? 32 : 20)) break;
        read.created = long ? Number(view.getBigUint64(data + 4)) : view.getUint32(data + 4);
        read.movieScale = view.getUint32(data + (long ? 20 : 12)) || 1000;
        read.movieTicks = long ? Number(view.getBigUint64(data + 24)) : view.getUint32(data + 16);
        break;
      }
      case 'trak':
        read.tracks.push(freshTrack());
        break;
      case 'tkhd': {
        if (!track || room < 84) break;
        track.id = view.getUint32(data + (full.version === 1 ? 20 : 12));
        track.width = view.getUint32(end - 8) / 65_536;
        track.height = view.getUint32(end - 4) / 65_536;
        break;
      }
      case 'elst': {
        if (!track || room < 8) break;
        const long = full.version === 1;
        const step = long ? 20 : 12;
        const count = Math.min(view.getUint32(data + 4), Math.floor((room - 8) / step), 16);
        for (let i = 0; i < count; i++) {
          const at = data + 8 + i * step;
          const lasts = long ? Number(view.getBigUint64(at)) : view.getUint32(at);
          const begins = long ? Number(view.getBigInt64(at + 8)) : view.getInt32(at + 4);
          if (begins < 0) track.delayMs += (lasts * 1000) / read.movieScale;
          else {
            track.startsAt = begins;
            break;
          }
        }
        break;
      }
      case 'mdhd':
        if (track && room >= (full.version === 1 ? 24 : 16))
          track.scale = view.getUint32(data + (full.version === 1 ? 20 : 12));
        break;
      case 'hdlr':
        if (track && room >= 12 && ascii(b, data + 8) === 'vide') track.video = true;
        break;
      case 'stsd':
        if (!track || room < 16) break;
        track.codec = ascii(b, data + 12);
        if (room >= 44 && track.video && !track.width) {
          track.width = view.getUint16(data + 40);
          track.height = view.getUint16(data + 42);
        }
        break;
      case 'stts':
      case 'ctts': {
        if (!track || room < 8) break;
        const count = Math.min(view.getUint32(data + 4), Math.floor((room - 8) / 8));
        const list = type === 'stts' ? track.durations : track.offsets;
        for (let i = 0; i < count && list.length < mostFrames; i++) {
          const at = data + 8 + i * 8;
          list.push([view.getUint32(at), type === 'ctts' ? view.getInt32(at + 4) : view.getUint32(at + 4)]);
        }
        break;
      }
      case 'trex':
        if (room >= 16) defaults.set(view.getUint32(data + 4), view.getUint32(data + 12));
        break;
      case 'tfhd': {
        if (room < 8) break;
        const id = view.getUint32(data + 4);
        const at = data + 8 + (full.flags & 1 ? 8 : 0) + (full.flags & 2 ? 4 : 0);
        const told = full.flags & 8 && at + 4 <= end ? view.getUint32(at) : undefined;
        fragment = { id, duration: told ?? defaults.get(id) ?? 0, next: reached.get(id) ?? 0 };
        break;
      }
      case 'tfdt':
        if (room >= (full.version === 1 ? 12 : 8))
          fragment.next = full.version === 1 ? Number(view.getBigUint64(data + 4)) : view.getUint32(data + 4);
        break;
      case 'trun': {
        const own = byId(fragment.id);
        if (!own || own !== main() || room < 8) break;
        const { flags } = full;
        let at = data + 8 + (flags & 1 ? 4 : 0) + (flags & 4 ? 4 : 0);
        const step = [0x100, 0x200, 0x400, 0x800].filter((one) => flags & one).length * 4;
        const count = view.getUint32(data + 4);
        for (let i = 0; i < count && at + step <= end && times.length < mostFrames; i++, at += step) {
          let field = at;
          let lasts = fragment.duration;
          if (flags & 0x100) {
            lasts = view.getUint32(field);
            field += 4;
          }
          field += (flags & 0x200 ? 4 : 0) + (flags & 0x400 ? 4 : 0);
          const later = flags & 0x800 ? view.getInt32(field) : 0;
          times.push(fragment.next + later);
          fragment.next += lasts;
        }
        reached.set(fragment.id, fragment.next);
        break;
      }
      default:
    }
  }
  const track = main();
  if (!track || !track.scale) {
    throw new Error(
      read.indexed
        ? 'there is no video track in it'
        : 'it has no index of its frames: a recorder that is killed leaves MP4 files so. Record in fragments, or as WebM, which play as far as they go',
    );
  }
  return structureOf(track, times, read);
}

function structureOf(
  track: Track,
  fragmented: readonly number[],
  read: { movieScale: number; movieTicks: number; created: number; broken: boolean },
): VideoStructure {
  const times = [...fragmented];
  let offset = 0;
  let left = track.offsets[0]?.[0] ?? 0;
  let clock = 0;
  for (const [count, delta] of track.durations)
    for (let i = 0; i < count && times.length < mostFrames; i++) {
      while (left === 0 && offset + 1 < track.offsets.length) left = track.offsets[++offset]![0];
      times.push(clock + (left > 0 ? track.offsets[offset]![1] : 0));
      if (left > 0) left--;
      clock += delta;
    }
  const frames = times
    .map((time) => track.delayMs + ((time - track.startsAt) * 1000) / track.scale)
    .filter((time) => Number.isFinite(time) && time > -60_000)
    .sort((a, b) => a - b);
  if (!frames.length) throw new Error('there is no frame in it');
  const last = frames.at(-1)!;
  const usual = frames.length > 1 ? (last - frames[0]!) / (frames.length - 1) : 0;
  const told = (read.movieTicks * 1000) / read.movieScale;
  const durationTold = told > 0 && told < 1e10 && told >= last - usual;
  const writtenAt = (read.created - from1904) * 1000;
  return {
    width: Math.round(track.width),
    height: Math.round(track.height),
    codec: track.codec.trim(),
    durationMs: durationTold ? told : last + usual,
    durationTold,
    frames,
    ...(writtenAt > earliest && writtenAt < Date.UTC(2200, 0) ? { writtenAt } : {}),
    ...(read.broken ? { problem: `the file breaks off after ${frames.length} frames` } : {}),
  };
}

/** Boxes of texts: what wrote it, where, by whom. */
const texts = new Set(['udta', 'meta', 'uuid']);

/** Overwrites the texts of a video; its length stays, so that nothing in it moves. @returns the same bytes */
export function withoutMp4Texts<T extends Uint8Array>(out: T): T {
  for (const { start, data, end } of [...boxes(out)].filter(({ type }) => texts.has(type))) {
    for (let i = 0; i < 4; i++) out[start + 4 + i] = 'free'.charCodeAt(i);
    out.fill(0, data, end);
  }
  return out;
}
