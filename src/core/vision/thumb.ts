/** Small grey pictures, compared instead of large ones. */
export const thumbWidth = 64;
export const thumbHeight = 40;
export const thumbSize = thumbWidth * thumbHeight;

/** A picture as 64 × 40 grey values, row by row. */
export type Thumb = Uint8Array;

/**
 * How different two thumbs are: the mean difference of grey values, 0 to 255, of which the parts that
 * differ most count double, since a page changes in one place and stays the same in the others.
 */
export function difference(a: Thumb, b: Thumb): number {
  const block = 8;
  let total = 0;
  let worst = 0;
  for (let by = 0; by < thumbHeight; by += block) {
    for (let bx = 0; bx < thumbWidth; bx += block) {
      let sum = 0;
      for (let y = by; y < by + block; y++)
        for (let x = bx; x < bx + block; x++) {
          const i = y * thumbWidth + x;
          const d = a[i]! - b[i]!;
          sum += d < 0 ? -d : d;
        }
      total += sum;
      if (sum > worst) worst = sum;
    }
  }
  return (total / thumbSize + worst / (block * block)) / 2;
}
