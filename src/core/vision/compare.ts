/** Two pictures of the same size compared, and what one picture shows by itself. Pixels are RGBA, row by row. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8ClampedArray;
}

export interface Region {
  x: number;
  y: number;
  width: number;
  height: number;
}

export interface Difference {
  /** 1 where the pixels differ, row by row. */
  mask: Uint8Array;
  /** Share of all pixels that differ. */
  share: number;
  /** Boxes around what differs, the largest first, pixels. */
  regions: Region[];
}

/** Colours nearer than this count as the same: the noise of picture compression stays under it (of 255). */
const sameColour = 26;
/** Differences no further apart than this are one region, pixels. */
const cell = 16;

/**
 * Which pixels of two pictures differ, by the distance of their luma and chroma (after Kotsarenko and
 * Ramos, 2010, as YIQ), and the boxes around them.
 * @throws RangeError when the pictures are of different size
 */
export function comparePictures(a: Pixels, b: Pixels): Difference {
  if (a.width !== b.width || a.height !== b.height)
    throw new RangeError(`pictures of ${a.width} by ${a.height} and ${b.width} by ${b.height} cannot be compared`);
  const { width, height } = a;
  const mask = new Uint8Array(width * height);
  const across = Math.ceil(width / cell);
  const cells = new Uint8Array(across * Math.ceil(height / cell));
  let count = 0;
  for (let i = 0, p = 0; i < mask.length; i++, p += 4) {
    if (colourDistance(a.data, b.data, p) < sameColour) continue;
    mask[i] = 1;
    count++;
    cells[Math.floor(i / width / cell) * across + Math.floor((i % width) / cell)] = 1;
  }
  return { mask, share: count / Math.max(1, mask.length), regions: regionsOf(cells, across, width, height) };
}

function colourDistance(a: Uint8ClampedArray, b: Uint8ClampedArray, p: number): number {
  const dr = a[p]! - b[p]!;
  const dg = a[p + 1]! - b[p + 1]!;
  const db = a[p + 2]! - b[p + 2]!;
  const y = 0.299 * dr + 0.587 * dg + 0.114 * db;
  const i = 0.596 * dr - 0.274 * dg - 0.322 * db;
  const q = 0.211 * dr - 0.523 * dg + 0.312 * db;
  return Math.sqrt(0.5053 * y * y + 0.299 * i * i + 0.1957 * q * q) * 1.4;
}

/** Boxes around cells that touch each other, also at their corners. */
function regionsOf(cells: Uint8Array, across: number, width: number, height: number): Region[] {
  const seen = new Uint8Array(cells.length);
  const regions: Region[] = [];
  for (let start = 0; start < cells.length; start++) {
    if (!cells[start] || seen[start]) continue;
    let [left, right, top, bottom] = [across, 0, cells.length, 0];
    const open = [start];
    seen[start] = 1;
    while (open.length) {
      const at = open.pop()!;
      const x = at % across;
      const y = Math.floor(at / across);
      left = Math.min(left, x);
      right = Math.max(right, x);
      top = Math.min(top, y);
      bottom = Math.max(bottom, y);
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const next = (y + dy) * across + x + dx;
          if (x + dx < 0 || x + dx >= across || !cells[next] || seen[next]) continue;
          seen[next] = 1;
          open.push(next);
        }
    }
    const box = { x: left * cell, y: top * cell };
    regions.push({
      ...box,
      width: Math.min(width, (right + 1) * cell) - box.x,
      height: Math.min(height, (bottom + 1) * cell) - box.y,
    });
  }
  return regions.sort((a, b) => b.width * b.height - a.width * a.height);
}

export interface Finding {
  kind: 'blank' | 'loading' | 'broken-off';
  words: string;
}

/** What one picture of an attempt shows by itself. */
export interface Look {
  /** The event it was told by, and when. */
  event: string;
  at: number;
  findings: Finding[];
}

/** A page of one colour: this much of it. */
const blankShare = 0.997;
/** A page that is empty but for something small: this much of it is one colour. */
const emptyShare = 0.95;
/** Widest and highest share of the page that a sign of loading takes. */
const smallShare = 0.3;

/**
 * What a picture shows by itself: nothing, nearly nothing but a small thing in the middle, or a
 * picture file that broke off. Each is only said when it is plain.
 */
export function findingsOf(picture: Pixels): Finding[] {
  const { width, height, data } = picture;
  const counts = new Map<number, number>();
  const keyAt = (p: number): number => ((data[p]! >> 3) << 10) | ((data[p + 1]! >> 3) << 5) | (data[p + 2]! >> 3);
  for (let p = 0; p < data.length; p += 4) counts.set(keyAt(p), (counts.get(keyAt(p)) ?? 0) + 1);
  const [ground, count] = [...counts].reduce((most, one) => (one[1] > most[1] ? one : most), [0, 0]);
  const pixels = Math.max(1, width * height);
  const brokenFrom = brokenOffFrom(picture);
  if (brokenFrom !== undefined)
    return [{ kind: 'broken-off', words: `the picture file broke off: nothing but grey from line ${brokenFrom} on` }];
  if (count / pixels >= blankShare) return [{ kind: 'blank', words: 'blank: nearly every pixel is the same colour' }];
  if (count / pixels < emptyShare) return [];
  let [left, right, top, bottom] = [width, -1, height, -1];
  for (let i = 0, p = 0; i < pixels; i++, p += 4) {
    if (keyAt(p) === ground) continue;
    const x = i % width;
    const y = Math.floor(i / width);
    left = Math.min(left, x);
    right = Math.max(right, x);
    top = Math.min(top, y);
    bottom = Math.max(bottom, y);
  }
  const small = right - left < width * smallShare && bottom - top < height * smallShare;
  const middle = Math.abs((left + right) / 2 - width / 2) < width * 0.15 && (top + bottom) / 2 < height * 0.75;
  return small && middle
    ? [{ kind: 'loading', words: 'an empty page with one small thing in the middle, as pages look while they load' }]
    : [];
}

/** A decoder fills what is missing of a JPEG with mid grey: the line from which on there is nothing else. */
function brokenOffFrom({ width, height, data }: Pixels): number | undefined {
  let from = height;
  scan: for (let y = height - 1; y >= 0; y--) {
    for (let x = 0; x < width; x++) {
      const p = (y * width + x) * 4;
      if (Math.abs(data[p]! - 128) > 2 || Math.abs(data[p + 1]! - 128) > 2 || Math.abs(data[p + 2]! - 128) > 2)
        break scan;
    }
    from = y;
  }
  return from > 0 && height - from > height * 0.06 ? from : undefined;
}
