import { describe, expect, it } from 'vitest';
import { eventsOf } from '../../core/evidence/event.ts';
import { exchange, line } from '../../core/evidence/samples.ts';
import { usualOf } from '../../core/evidence/usual.ts';
import { lineText, linesFor, noFilter, requestText, requestsFor, sourceOf } from './working-list.ts';

const lines = eventsOf(
  [line(10, 'app ready'), line(20, 'fare cache cold', 'warning'), line(30, 'holdRef is null', 'error')],
  'console',
);
lines[2]!.data.source = 'http://ferry.test/client/shop.js?v=3:41';
const requests = eventsOf(
  [
    exchange(0, 40, { url: 'http://ferry.test/api/fare/e-1840' }),
    exchange(50, 90, { url: 'http://weather.test/sea', host: 'weather.test', own: false, firstByteMs: 31 }),
    exchange(60, 70, { url: 'http://ferry.test/api/holds', status: 500, method: 'POST' }),
  ],
  'network',
);
const texts = (filter: Partial<typeof noFilter>): string[] =>
  linesFor(lines, { ...noFilter, ...filter }, usual).map(({ event }) => event.data.text);
const urls = (filter: Partial<typeof noFilter>, level = 0): string[] =>
  requestsFor(requests, { ...noFilter, ...filter }, usual, level).map(({ event }) => event.data.url);
const usual = usualOf([[lines[0]!, requests[0]!]]);

describe('the list of console lines', () => {
  it('is narrowed by level, source, words and time', () => {
    expect(texts({})).toHaveLength(3);
    expect(texts({ only: 'warning' })).toEqual(['fare cache cold']);
    expect(texts({ from: 'shop.js' })).toEqual(['holdRef is null']);
    expect(texts({ words: 'CACHE fare' })).toEqual(['fare cache cold']);
    expect(texts({ range: { from: 15, until: 25 } })).toEqual(['fare cache cold']);
    expect(sourceOf(lines[2]!)).toBe('shop.js');
  });

  it('tells what is new against passing attempts, and nothing when there is none', () => {
    expect(texts({ fresh: true })).toEqual(['fare cache cold', 'holdRef is null']);
    expect(linesFor(lines, noFilter, undefined).map(({ fresh }) => fresh)).toEqual([undefined, undefined, undefined]);
  });

  it('reads as text', () => {
    expect(lineText(lines[2]!)).toBe('0.030 s  error    holdRef is null  (http://ferry.test/client/shop.js?v=3:41)');
  });
});

describe('the list of requests', () => {
  it('is narrowed by failure, host, words, what is new and what is in flight', () => {
    expect(urls({ only: 'failed' })).toEqual(['http://ferry.test/api/holds']);
    expect(urls({ from: 'weather.test' })).toEqual(['http://weather.test/sea']);
    expect(urls({ words: 'post 500' })).toEqual(['http://ferry.test/api/holds']);
    expect(urls({ fresh: true })).toHaveLength(2);
    expect(urls({ inFlight: true }, 65)).toEqual(['http://weather.test/sea', 'http://ferry.test/api/holds']);
    expect(urls({ range: { from: 41, until: 49 } })).toEqual([]);
  });

  it('reads as text', () => {
    expect(requestText(requests[1]!)).toBe('0.050 s  GET http://weather.test/sea  200  40 ms (first byte after 31 ms)');
  });
});
