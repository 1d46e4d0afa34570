import { expect, test } from 'vitest';
import { timesInPath } from './name-times.ts';

const at = Date.UTC(2026, 10, 23, 6, 18, 27, 895);
const second = Date.UTC(2026, 10, 23, 6, 18, 27);

test.each([
  ['2026-11-23T06-18-27-895Z.png', at, true, 1],
  ['step_1__20261123T061827.895+0000.png', at, true, 1],
  ['20261123T081827.895+0200.webm', at, true, 1],
  [`screenshot-${at}.png`, at, true, 1],
  [`shot_${at * 1000}.png`, at, true, 1],
  [`run-${second / 1000}.log`, second, true, 1000],
  ['2026-11-23_06.18.27.har', second, false, 1000],
  ['Screenshot 2026-11-23 at 06.18.27.png', second, false, 1000],
  ['20261123061827.png', second, false, 1000],
  ['20261123-061827-895.png', at, false, 1],
  ['video-2026_11_23_06_18_27.webm', second, false, 1000],
  ['23-11-2026 06.18.27.png', second, false, 1000],
  ['2026-11-23 06_18.har', Date.UTC(2026, 10, 23, 6, 18), false, 60_000],
])('%s tells its time', (path, when, zoned, resolutionMs) => {
  expect(timesInPath(`left/${path}`)[0]).toEqual({ at: when, zoned, resolutionMs });
});

test.each([
  'a9bbd34c-77f6-4b37-b4e4-2dee14beb530.har',
  'order-4711-1280x720.png',
  '2026-11-23.log',
  'v20.13.45.62.png',
  'report-20261399-259999.xml',
  '12345678901.png',
  'hash-deadbeef1795414707.bin',
])('%s tells none', (path) => {
  expect(timesInPath(path)).toEqual([]);
});

test('the file’s own name comes before its folders', () => {
  const times = timesInPath('run-2026-11-23T06-00-00Z/shot-2026-11-23T06-18-27Z.png');
  expect(times.map((one) => one.at)).toEqual([second, Date.UTC(2026, 10, 23, 6)]);
});
