import { expect, it } from 'vitest';
import { Allowance } from './allowance.ts';

it('lets steps go on for a while after the page has used up the events, and says what was left out', () => {
  const allowance = new Allowance({ events: 10, stepsBeyond: 5, eventBytes: 1024 ** 2, pictureBytes: 100 });
  for (let i = 0; i < 12; i++) allowance.allows('page');
  for (let i = 0; i < 8; i++) allowance.allows('step');
  expect(allowance.allowsBytes(80)).toBe(true);
  expect(allowance.allowsBytes(30)).toBe(false);
  expect(allowance.leftOut()).toEqual([
    'Left out: 2 events of the page lane, 3 events of the step lane, 1 pictures and structures. An attempt may have 10 events of 1 MiB and pictures of 0 MiB',
  ]);
});

it('counts bytes, too', () => {
  const allowance = new Allowance({ events: 1000, stepsBeyond: 5, eventBytes: 1000, pictureBytes: 100 });
  expect(allowance.allows('network')).toBe(true);
  allowance.wrote(1100);
  expect(allowance.allows('network')).toBe(false);
  expect(allowance.allows('step')).toBe(true);
});

it('says nothing when nothing was left out', () => {
  expect(new Allowance().leftOut()).toEqual([]);
});
