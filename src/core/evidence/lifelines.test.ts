import { expect, it } from 'vitest';
import { eventsOf } from './event.ts';
import { lifelinesOf, nameAt, presenceOf, segmentAt } from './lifelines.ts';
import { element } from './samples.ts';

const events = eventsOf(
  [
    element(100, 'absent', 'css=#hold', { node: null }),
    element(200, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat', visible: true }),
    element(500, 'replaced', 'css=#hold', { node: 4, name: 'Hold seat', visible: true, coveredBy: 'div.notice' }),
  ],
  'element',
);

it('each change begins a segment that lasts to the next, the last one to the end', () => {
  const [line] = lifelinesOf(events, 900);
  expect(line!.segments.map(({ from, until }) => [from, until])).toEqual([
    [100, 200],
    [200, 500],
    [500, 900],
  ]);
});

it('tells presence in one word, the most telling first', () => {
  const [line] = lifelinesOf(events, 900);
  expect(line!.segments.map(({ state }) => presenceOf(state))).toEqual(['absent', 'visible', 'covered']);
  expect(presenceOf({ count: 1, node: 1, visible: true, enabled: false })).toBe('disabled');
  expect(presenceOf({ count: 1, node: 1, visible: false, coveredBy: 'x' })).toBe('hidden');
});

it('finds the segment at a time and none before the watch began', () => {
  const [line] = lifelinesOf(events, 900);
  expect(segmentAt(line!, 50)).toBeUndefined();
  expect(segmentAt(line!, 499)!.state.node).toBe(1);
  expect(segmentAt(line!, 500)!.state.node).toBe(4);
});

it('names the element even before it was there', () => {
  const [line] = lifelinesOf(events, 900);
  expect(nameAt(line!, 120)).toBe('Hold seat');
});
