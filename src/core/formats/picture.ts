/** What the head of a picture says: its kind and size, without decoding it. */
export interface PictureHead {
  mime: 'image/png' | 'image/jpeg' | 'image/webp';
  width: number;
  height: number;
}

/** Sides beyond this are a lie or an attack: a screen of 16384 pixels a side is far above any in use. */
export const longestSide = 16_384;

/** What takes more, decoded, is read row by row or not at all. */
const mostWhole = 256 * 1024 ** 2;

/** Bytes of a decoded pixel. */
const depthOf = (b: Uint8Array): number => (isPng(b) && b[24] === 16 ? 8 : 4);

/** Interlaced PNG, progressive JPEG and WebP come in no order of rows. */
function isWholeDecoded(b: Uint8Array): boolean {
  if (isPng(b)) return b[28] !== 0;
  return isWebp(b) || (isJpeg(b) && jpegHead(b).progressive);
}

const u16 = (b: Uint8Array, at: number): number => (b[at]! << 8) | b[at + 1]!;
const u32 = (b: Uint8Array, at: number): number =>
  ((b[at]! << 24) | (b[at + 1]! << 16) | (b[at + 2]! << 8) | b[at + 3]!) >>> 0;
const le32 = (b: Uint8Array, at: number): number =>
  (b[at]! | (b[at + 1]! << 8) | (b[at + 2]! << 16) | (b[at + 3]! << 24)) >>> 0;
const le24 = (b: Uint8Array, at: number): number => b[at]! | (b[at + 1]! << 8) | (b[at + 2]! << 16);
const tag = (b: Uint8Array, at: number): string => String.fromCharCode(b[at]!, b[at + 1]!, b[at + 2]!, b[at + 3]!);

const isPng = (b: Uint8Array): boolean => b.length > 33 && u32(b, 0) === 0x89504e47 && u32(b, 4) === 0x0d0a1a0a;
const isJpeg = (b: Uint8Array): boolean => b.length > 10 && b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff;
const isWebp = (b: Uint8Array): boolean => b.length > 30 && tag(b, 0) === 'RIFF' && tag(b, 8) === 'WEBP';

/** @returns undefined for anything that is none of the three @throws Error for a picture whose head is broken or lies about its size */
export function readPicture(b: Uint8Array): PictureHead | undefined {
  const head = isPng(b)
    ? { mime: 'image/png' as const, width: u32(b, 16), height: u32(b, 20) }
    : isJpeg(b)
      ? { mime: 'image/jpeg' as const, width: jpegHead(b).width, height: jpegHead(b).height }
      : isWebp(b)
        ? { mime: 'image/webp' as const, ...webpSize(b) }
        : undefined;
  if (!head) return undefined;
  if (!head.width || !head.height) throw new Error('the picture’s head says no size; the file is broken');
  if (head.width > longestSide || head.height > longestSide)
    throw new Error(`the picture says it is ${head.width} × ${head.height}; sides over ${longestSide} are not taken`);
  const decoded = head.width * head.height * depthOf(b);
  if (isWholeDecoded(b) && decoded > mostWhole)
    throw new Error(
      `the picture is ${head.width} × ${head.height} and has to be held whole to be decoded; such pictures are taken up to ${mostWhole / 1024 ** 2} MiB`,
    );
  // Even a picture of one colour needs some bytes a row; far fewer means that the head lies.
  if ((head.width * head.height) / b.length > 20_000)
    throw new Error(
      `the picture says it is ${head.width} × ${head.height} in ${b.length} bytes; that cannot be, it is not taken`,
    );
  return head;
}

function jpegHead(b: Uint8Array): { width: number; height: number; progressive: boolean } {
  for (let at = 2; at + 9 < b.length;) {
    if (b[at] !== 0xff) {
      at++;
      continue;
    }
    const marker = b[at + 1]!;
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { height: u16(b, at + 5), width: u16(b, at + 7), progressive: marker % 4 === 2 };
    if (marker === 0xff) at++;
    else if (marker === 0x01 || (marker >= 0xd0 && marker <= 0xd8)) at += 2;
    else at += 2 + Math.max(2, u16(b, at + 2));
  }
  return { width: 0, height: 0, progressive: false };
}

function webpSize(b: Uint8Array): { width: number; height: number } {
  switch (tag(b, 12)) {
    case 'VP8X':
      return { width: le24(b, 24) + 1, height: le24(b, 27) + 1 };
    case 'VP8L': {
      const bits = le32(b, 21);
      return { width: (bits & 0x3fff) + 1, height: ((bits >> 14) & 0x3fff) + 1 };
    }
    case 'VP8 ':
      return { width: (b[26]! | (b[27]! << 8)) & 0x3fff, height: (b[28]! | (b[29]! << 8)) & 0x3fff };
    default:
      return { width: 0, height: 0 };
  }
}

const joined = (parts: Uint8Array[]): Uint8Array => {
  const out = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
};

/**
 * The picture without what it says besides its pixels: texts, comments, camera and editor data, and
 * whatever hangs after its end. That is where a secret could ride in unseen.
 */
export function withoutTexts(b: Uint8Array): Uint8Array {
  if (isPng(b)) return cleanPng(b);
  if (isJpeg(b)) return cleanJpeg(b);
  if (isWebp(b)) return cleanWebp(b);
  return b;
}

const pngKept = new Set(['IHDR', 'PLTE', 'IDAT', 'IEND', 'tRNS', 'gAMA', 'cHRM', 'sRGB', 'pHYs', 'sBIT', 'bKGD']);
function cleanPng(b: Uint8Array): Uint8Array {
  const parts = [b.subarray(0, 8)];
  for (let at = 8; at + 12 <= b.length;) {
    const size = u32(b, at) + 12;
    const name = tag(b, at + 4);
    if (pngKept.has(name)) parts.push(b.subarray(at, Math.min(b.length, at + size)));
    if (name === 'IEND') break;
    at += size;
  }
  return joined(parts);
}

function cleanJpeg(b: Uint8Array): Uint8Array {
  const parts = [b.subarray(0, 2)];
  let at = 2;
  while (at + 4 <= b.length && b[at] === 0xff) {
    const marker = b[at + 1]!;
    if (marker === 0xda) {
      const end = endOfJpeg(b, at);
      parts.push(b.subarray(at, end));
      break;
    }
    const size = 2 + Math.max(2, u16(b, at + 2));
    // APP0 (size in print) and APP14 (colours) are needed to show it right; other APPn and comments are not.
    const said = (marker >= 0xe1 && marker <= 0xef && marker !== 0xee) || marker === 0xfe;
    if (!said) parts.push(b.subarray(at, at + size));
    at += size;
  }
  return joined(parts);
}

function endOfJpeg(b: Uint8Array, from: number): number {
  for (let at = from; at + 1 < b.length; at++) if (b[at] === 0xff && b[at + 1] === 0xd9) return at + 2;
  return b.length;
}

const webpKept = new Set(['VP8 ', 'VP8L', 'VP8X', 'ALPH', 'ANIM', 'ANMF']);
function cleanWebp(b: Uint8Array): Uint8Array {
  const parts: Uint8Array[] = [];
  const end = Math.min(b.length, le32(b, 4) + 8);
  for (let at = 12; at + 8 <= end;) {
    const size = 8 + le32(b, at + 4) + (le32(b, at + 4) % 2);
    if (webpKept.has(tag(b, at))) parts.push(b.slice(at, Math.min(end, at + size)));
    at += size;
  }
  // The extended header says which of the dropped parts to expect; those bits go too.
  for (const part of parts) if (tag(part, 0) === 'VP8X') part[8]! &= ~0b0010_1100;
  const body = joined(parts);
  const head = new Uint8Array(12);
  head.set(b.subarray(0, 12));
  new DataView(head.buffer).setUint32(4, body.length + 4, true);
  return joined([head, body]);
}
