import { describe, expect, it } from 'vitest';
import { alignVideo, type Shot } from './align.ts';
import { difference, thumbSize, thumbWidth } from './thumb.ts';

/** A page with a block at a place that changes with the scene, and some noise of the coding. */
function page(scene: number, noise = 0): Uint8Array {
  const thumb = new Uint8Array(thumbSize).fill(230);
  for (let y = 0; y < 12; y++)
    for (let x = 0; x < 12; x++) thumb[(y + (scene % 3) * 12) * thumbWidth + x + (scene % 5) * 12] = 40 + scene;
  for (let i = 0; i < thumbSize; i++) thumb[i] = thumb[i]! + ((i * 7 + noise * 13) % 3);
  return thumb;
}
/** Scene changes of a made-up session, ms on the video's clock. */
const changes = [0, 420, 910, 1600, 2050, 2900];
const sceneAt = (time: number): number => changes.findLastIndex((from) => from <= time);
const frames: Shot[] = Array.from({ length: 90 }, (_, i) => ({ at: i * 40, thumb: page(sceneAt(i * 40), i) }));
const shotsAt = (offset: number, times: number[]): Shot[] =>
  times.map((at) => ({ at: at + offset, thumb: page(sceneAt(at), 5) }));

describe('aligning a video by its pictures', () => {
  it('finds when it began, and how surely', () => {
    const found = alignVideo(
      frames,
      shotsAt(5000, [100, 400, 450, 880, 950, 1580, 1640, 2000, 2100, 2880, 2950]),
      3600,
    )!;
    expect(found.sure).toBe(true);
    expect(Math.abs(found.offset - 5000)).toBeLessThanOrEqual(found.within + 1);
    expect(found.within).toBeLessThanOrEqual(60);
    expect(found.matched).toBe(11);
  });
  it('stands wrong pictures', () => {
    const wrong = { at: 6000, thumb: new Uint8Array(thumbSize).fill(9) };
    const found = alignVideo(frames, [...shotsAt(5000, [400, 450, 880, 950, 1580, 1640, 2880, 2950]), wrong], 3600)!;
    expect(found.sure).toBe(true);
    expect(Math.abs(found.offset - 5000)).toBeLessThanOrEqual(60);
  });
  it('is unsure when the pictures do not tell', () => {
    const still = frames.map(({ at }) => ({ at, thumb: page(0) }));
    expect(alignVideo(still, shotsAt(0, [100, 200]), 3600)!.sure).toBe(false);
    expect(alignVideo(frames, shotsAt(5000, [600]), 3600)!.sure).toBe(false);
    expect(alignVideo(frames, [{ at: 10, thumb: new Uint8Array(thumbSize) }], 3600)!.sure).toBe(false);
    expect(alignVideo([], shotsAt(0, [1]), 0)).toBeUndefined();
  });
});

it('a difference counts the part that differs more than the mean', () => {
  expect(difference(page(0), page(0))).toBe(0);
  expect(difference(page(0), page(1))).toBeGreaterThan(6);
});
