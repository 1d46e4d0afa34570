import { expect, it } from 'vitest';
import type { EvidenceEvent } from '../../../core/evidence/event.ts';
import { HeldEvents, Shelf } from './held-events.ts';

const line = (at: number): EvidenceEvent => ({
  id: `l${at}`,
  lane: 'console',
  kind: 'line',
  at,
  clock: 'file',
  data: { level: 'info', text: 'asked' },
});

it('events of files are let go when others need the room, and are the same when they are asked for again', () => {
  const shelf = new Shelf(100);
  const loads: number[] = [];
  const files = [0, 1, 2].map((n) => {
    const held = new HeldEvents([line(n)]);
    held.shelve(shelf, 60, () => {
      loads.push(n);
      return [line(n)];
    });
    return held;
  });
  // Only the last has room; the others are read again, set on the clock that was settled meanwhile.
  files[0]!.shift(1000);
  files[0]!.shift(-500);
  expect(files[2]!.all).toEqual([line(2)]);
  expect(loads).toEqual([]);
  expect(files[0]!.all[0]!.at).toBe(500);
  expect(files[1]!.all).toEqual([line(1)]);
  expect(loads).toEqual([0, 1]);
  expect(files[1]!.all).toEqual([line(1)]);
  expect(loads).toEqual([0, 1]);
  files[1]!.shift(7);
  expect(files[1]!.all[0]!.at).toBe(8);
});

it('one that is larger than all the room is held while it is used', () => {
  const shelf = new Shelf(10);
  let loads = 0;
  const held = new HeldEvents([line(1)]);
  held.shelve(shelf, 60, () => {
    loads++;
    return [line(1)];
  });
  expect(held.all).toHaveLength(1);
  expect(held.all).toHaveLength(1);
  expect(loads).toBe(0);
});
