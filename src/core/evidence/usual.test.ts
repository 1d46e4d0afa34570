import { expect, it } from 'vitest';
import { eventsOf } from './event.ts';
import { exchange, line } from './samples.ts';
import { linePattern, requestPattern, usualOf } from './usual.ts';

const passing = [
  [line(10, 'seat panel rendered, 1795437.2'), exchange(0, 5, { url: 'http://ferry.test/api/fare/e-1840?x=1' })],
  [line(10, 'tide table loaded in 31 ms'), exchange(0, 5, { url: 'http://ferry.test/client/shop.js' })],
];

it('knows what passing attempts log and ask for, whatever the numbers', () => {
  const usual = usualOf(passing);
  expect(usual.attempts).toBe(2);
  const [again, other] = eventsOf(
    [line(1, 'seat panel rendered, 99.1'), line(2, 'holdRef is null', 'error')],
    'console',
  );
  expect(usual.lines).toContain(linePattern(again!));
  expect(usual.lines).not.toContain(linePattern(other!));
  const [same, failed, new_] = eventsOf(
    [
      exchange(0, 1, { url: 'http://ferry.test/api/fare/m-0710' }),
      exchange(1, 2, { url: 'http://ferry.test/api/fare/m-0710', status: 500 }),
      exchange(2, 3, { url: 'http://weather.test/sea', host: 'weather.test', own: false }),
    ],
    'network',
  );
  expect(usual.requests).toContain(requestPattern(same!));
  expect(usual.requests).not.toContain(requestPattern(failed!));
  expect(usual.requests).not.toContain(requestPattern(new_!));
});

it('without passing attempts knows nothing, and says so', () => {
  expect(usualOf([])).toEqual({ attempts: 0, lines: [], requests: [] });
});
