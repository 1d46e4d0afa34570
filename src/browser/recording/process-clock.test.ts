import { expect, it } from 'vitest';
import { ProcessClock } from './process-clock.ts';

it('is never further from the truth than the least lag it has heard', () => {
  const clock = new ProcessClock();
  // The browser's clock began at 10,000; what it tells is heard late by varying amounts.
  const lags = [40, 12, 3, 25, 60, 4];
  const errors = lags.map((lag, i) => clock.wall(i, 10_000 + i * 1000 + lag) - (10_000 + i * 1000));
  expect(errors).toEqual([40, 12, 3, 3, 3, 3]);
});

it('believes the browser where it says what the wall’s clock showed', () => {
  const clock = new ProcessClock();
  clock.isAt(2, 12_000);
  expect(clock.wall(3, 13_050)).toBe(13_000);
  expect(clock.wall(undefined, 13_050)).toBe(13_050);
});
