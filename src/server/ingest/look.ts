import sharp from 'sharp';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { longestSide, readPicture } from '../../core/formats/picture.ts';
import { pictureAtFailure } from '../../core/evidence/picture-at-failure.ts';
import { findingsOf, type Look } from '../../core/vision/compare.ts';

/** Pictures are looked at this wide, and twice as high: whether there is anything on them shows as well, in a tenth of the time. */
const across = 480;

/**
 * What the picture of an attempt's failure shows by itself.
 * @param read gives the bytes of a blob
 * @returns undefined where there is none, or it cannot be decoded
 */
export async function lookAtFailure(
  events: readonly EvidenceEvent[],
  read: (blob: string) => Promise<Buffer>,
): Promise<Look | undefined> {
  const picture = pictureAtFailure(events);
  if (!picture) return undefined;
  try {
    const bytes = await read(picture.data.blob);
    // Whatever else was sent under the name of a picture is not decoded.
    if (!readPicture(bytes)) return undefined;
    const { data, info } = await sharp(bytes, { limitInputPixels: longestSide * longestSide })
      .flatten({ background: '#fff' })
      .resize(across, 2 * across, { fit: 'inside', withoutEnlargement: true, kernel: 'nearest' })
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const pixels = { width: info.width, height: info.height, data: new Uint8ClampedArray(data) };
    return { event: picture.id, at: picture.at, findings: findingsOf(pixels) };
  } catch {
    return undefined;
  }
}
