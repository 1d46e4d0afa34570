import { expect, it } from 'vitest';
import { parseDrill } from '../../core/drill/parse.ts';
import { trialLimitMs } from './trials.ts';

const limit = (lines: string): number => trialLimitMs(parseDrill(`drill "books"\n${lines}`).drill!);

it('a trial may take as long as all that its drill waits for, and some more', () => {
  const bare = limit('read title');
  expect(limit('read title\npause 90 s') - bare).toBe(90_000);
  expect(limit('read title\nwait until title is "Fares" up to 40 s every 1 s') - bare).toBe(41_000);
  expect(limit('limit page load 80 s\nopen "http://ferry.test/"') - bare).toBe(80_000);
});

it('what is done only when something is so counts as well', () => {
  const bare = limit('read title');
  expect(limit('when title is "Fares" then pause 90 s') - bare).toBe(90_000);
});
