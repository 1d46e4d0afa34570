import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { comparePictures, findingsOf, type Pixels } from './compare.ts';

function picture(width: number, height: number, colour: (x: number, y: number) => [number, number, number]): Pixels {
  const data = new Uint8ClampedArray(width * height * 4);
  for (let i = 0; i < width * height; i++) data.set([...colour(i % width, Math.floor(i / width)), 255], i * 4);
  return { width, height, data };
}
const plain = (): [number, number, number] => [243, 240, 232];
const page = (x: number, y: number): [number, number, number] =>
  y < 30 ? [32, 80, 90] : (x * 7 + y * 3) % 40 < 8 ? [20, 30, 40] : [250, 250, 250];

describe('two pictures', () => {
  it('of the same page are the same, and noise of compression is none', () => {
    const a = picture(200, 120, page);
    const noisy = picture(200, 120, (x, y) => page(x, y).map((c) => c + ((x * y) % 7) - 3) as [number, number, number]);
    expect(comparePictures(a, a)).toMatchObject({ share: 0, regions: [] });
    expect(comparePictures(a, noisy).share).toBe(0);
  });

  it('show where they differ, each place once', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 160 }), fc.integer({ min: 0, max: 90 }), (left, top) => {
        const b = picture(200, 120, (x, y) =>
          x >= left && x < left + 30 && y >= top && y < top + 20 ? [176, 65, 43] : [250, 250, 250],
        );
        const { regions, share } = comparePictures(
          picture(200, 120, () => [250, 250, 250]),
          b,
        );
        expect(regions).toHaveLength(1);
        const [one] = regions;
        expect(one!.x).toBeLessThanOrEqual(left);
        expect(one!.y).toBeLessThanOrEqual(top);
        expect(one!.x + one!.width).toBeGreaterThanOrEqual(left + 30);
        expect(one!.y + one!.height).toBeGreaterThanOrEqual(top + 20);
        expect(one!.width).toBeLessThanOrEqual(30 + 32);
        expect(share).toBeCloseTo(600 / 24_000, 6);
      }),
    );
  });

  it('far apart differ in two places', () => {
    const b = picture(200, 120, (x, y) => (y < 8 && (x < 8 || x > 190) ? [0, 0, 0] : [250, 250, 250]));
    expect(
      comparePictures(
        picture(200, 120, () => [250, 250, 250]),
        b,
      ).regions,
    ).toHaveLength(2);
  });

  it('of different size are refused in words', () => {
    expect(() => comparePictures(picture(2, 2, plain), picture(3, 2, plain))).toThrow('2 by 2 and 3 by 2');
  });
});

describe('one picture', () => {
  it('that shows nothing is blank', () => {
    expect(findingsOf(picture(200, 120, plain)).map(({ kind }) => kind)).toEqual(['blank']);
  });

  it('with a ring in the middle of nothing looks like loading', () => {
    const ring = picture(200, 120, (x, y) => {
      const far = Math.hypot(x - 100, y - 55);
      return far > 8 && far < 13 ? [27, 110, 128] : plain();
    });
    expect(findingsOf(ring).map(({ kind }) => kind)).toEqual(['loading']);
  });

  it('that broke off is grey to its foot', () => {
    const broken = picture(200, 120, (x, y) => (y < 70 ? page(x, y) : [128, 128, 128]));
    expect(findingsOf(broken)).toEqual([
      { kind: 'broken-off', words: 'the picture file broke off: nothing but grey from line 70 on' },
    ]);
  });

  it('of an ordinary page says nothing', () => {
    expect(findingsOf(picture(200, 120, page))).toEqual([]);
  });

  it('with a small thing in a corner says nothing of loading', () => {
    expect(findingsOf(picture(200, 120, (x, y) => (x < 20 && y < 12 ? [0, 0, 0] : plain())))).toEqual([]);
  });
});
