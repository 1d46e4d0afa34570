import { expect, it } from 'vitest';
import { parseDrill } from './parse.ts';
import { isConfirmed, reachOf } from './reach.ts';

const drill = parseDrill(`drill "pays"
open "http://ferry.test:8080/checkout"
open "https://pay.test/"
type secret "passenger" into css "#code"
type "/home/deniz/card.pdf" into css "#file"
when css "#more" is there then type secret "other" into css "#more"
script "return 1"
`).drill!;

it('tells the sites a drill opens, what it types, and its scripts', () => {
  expect(reachOf(drill)).toEqual({
    hosts: ['ferry.test:8080', 'pay.test'],
    secrets: ['passenger', 'other'],
    files: ['/home/deniz/card.pdf'],
    scripts: 1,
  });
});

it('is allowed only when all of it was looked at', () => {
  const reach = reachOf(drill);
  expect(isConfirmed(reach, null)).toBe(false);
  expect(isConfirmed(reach, reach)).toBe(true);
  expect(isConfirmed(reach, { ...reach, hosts: ['pay.test'] })).toBe(false);
  expect(isConfirmed({ ...reach, secrets: [], files: [] }, null)).toBe(true);
});
