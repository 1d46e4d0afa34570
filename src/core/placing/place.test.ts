import { describe, expect, it } from 'vitest';
import type { Loose, Place, ToldSpan } from './loose.ts';
import { placedFrom, placeFiles } from './place.ts';
import { tryIn, wordsOf, sizeIn, browserIn } from './words.ts';

const place = (id: string, title: string, more: Partial<Place> = {}): Place => ({
  id,
  suite: 'booking/holds',
  title,
  number: 1,
  environment: { browser: 'chromium', width: 1280, height: 800 },
  from: 1000,
  until: 5000,
  timed: true,
  failed: false,
  attachments: [],
  addresses: [],
  ...more,
});
const file = (id: string, path: string, more: Partial<Loose> = {}): Loose => ({ id, path, kind: 'moment', ...more });

const told = (from: number, until = from): ToldSpan => ({ from, until, firm: true, resolutionMs: 1 });

describe('words of a path', () => {
  it('are cut at capitals and signs', () =>
    expect(wordsOf('holdsASeat/Evening_sailing-2.png')).toEqual(['holds', 'aseat', 'evening', 'sailing', '2', 'png']));
  it.each([
    ['shot-attempt-2.png', 2],
    ['x-retry1/video.webm', 2],
    ['x.png', undefined],
    ['try3', 3],
  ])('%s is try %s', (path, number) => expect(tryIn(path)).toBe(number));
  it('name browser and size', () => {
    expect(sizeIn('a-390x844.png')).toEqual({ width: 390, height: 844 });
    expect(browserIn('out/Firefox/1.png')).toBe('firefox');
  });
});

describe('placing', () => {
  const holds = place('a', 'holds a seat on the evening sailing');
  const fares = place('b', 'shows the fare before checkout');

  it('follows the report before anything else', () => {
    const found = placeFiles(
      [file('f', 'out/img/3f2a.png')],
      [holds, { ...fares, attachments: ['/srv/ci/out/img/3f2a.png'] }],
    ).get('f')!;
    expect(found[0]).toMatchObject({ place: 'b', reasons: ['the report names 3f2a.png for this attempt'] });
    expect(found[0]!.score).toBeGreaterThan(0.99);
  });

  it('reads titles in paths, and tells tries and browsers apart', () => {
    const again = { ...holds, id: 'a2', number: 2 };
    const fox = { ...holds, id: 'a3', environment: { browser: 'firefox' } };
    const best = (path: string): string | undefined =>
      placeFiles([file('f', path)], [holds, again, fox, fares]).get('f')![0]?.place;
    expect(best('chromium/holds-a-seat-on-the-evening-sailing-retry1.png')).toBe('a2');
    expect(best('firefox/holds_a_seat_on_the_evening_sailing.png')).toBe('a3');
    expect(best('shows-the-fare-before-checkout.png')).toBe('b');
  });

  it('lets two videos of overlapping attempts compete for them', () => {
    const later = place('b', 'shows the fare', { from: 1400, until: 5300 });
    const found = placeFiles(
      [
        file('v1', '9f86.webm', { kind: 'lasting', spans: [told(1010, 5050)] }),
        file('v2', '60ad.webm', { kind: 'lasting', spans: [told(1420, 5350)] }),
      ],
      [holds, later],
    );
    expect(found.get('v1')![0]!.place).toBe('a');
    expect(found.get('v2')![0]!.place).toBe('b');
  });

  it('places nothing on nothing', () => {
    expect(placeFiles([file('f', '9f86d081.png')], [holds, fares]).get('f')).toEqual([]);
    const far = placeFiles([file('f', '9f86d081.png', { spans: [told(900_000)] })], [holds, fares]).get('f')!;
    expect(far[0]?.score ?? 0).toBeLessThan(0.05);
  });

  it('does not choose between equals', () => {
    const twin = { ...holds, id: 'twin', environment: { browser: 'firefox', width: 1280, height: 800 } };
    const found = placeFiles(
      [file('f', '9f86d081.png', { spans: [told(2000)], width: 1280, height: 800 })],
      [holds, twin],
    ).get('f')!;
    expect(found[0]!.score).toBeLessThan(placedFrom);
  });

  it('believes pictures over times', () => {
    const twin = { ...holds, id: 'twin' };
    const found = placeFiles([file('f', '9f86d081.png', { spans: [told(2000)] })], [holds, twin], (_f, p) =>
      p === 'twin' ? { weight: 6, reason: 'its video shows this picture' } : { weight: -4 },
    );
    expect(found.get('f')![0]).toMatchObject({ place: 'twin' });
    expect(found.get('f')![0]!.score).toBeGreaterThan(placedFrom);
  });
});
