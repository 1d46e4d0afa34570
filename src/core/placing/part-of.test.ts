import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { element, exchange, page, press, windowEvent } from '../evidence/samples.ts';
import { partOf } from './part-of.ts';

describe('a part of a recording', () => {
  const events = [
    windowEvent(5, 'opened', { context: 'w1' }),
    windowEvent(6, 'opened', { context: 'w2' }),
    page(10, 'navigation-committed', { address: 'http://lodos.example/', context: 'w1' }),
    element(20, 'appeared', 'css=#fare', { node: 1, tag: 'b', text: '…' }),
    element(60, 'changed', 'css=#fare', { node: 1, tag: 'b', text: '412' }),
    press(80),
    windowEvent(90, 'closed', { context: 'w2' }),
    exchange(95, 140, { url: 'http://lodos.example/api/fare' }),
    press(120),
    press(220),
  ];

  it('has what began in it, what was under way, and the last of what stood, from its own start', () => {
    const part = partOf(events, 100, 200);
    expect(part.map(({ lane, kind, at, until }) => [lane, kind, at, until])).toEqual([
      ['window', 'opened', 0, undefined],
      ['page', 'navigation-committed', 0, undefined],
      ['element', 'changed', 0, undefined],
      ['network', 'exchange', 0, 40],
      ['step', 'command', 20, expect.any(Number)],
    ]);
  });

  it('one after the other they have every step once', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 1000 }), { maxLength: 40 }),
        fc.array(fc.integer({ min: 1, max: 999 }), { maxLength: 5 }),
        (times, cuts) => {
          const steps = times.map((at) => press(at));
          const edges = [0, ...[...new Set(cuts)].sort((a, b) => a - b), 1001];
          const parts = edges.slice(1).flatMap((until, i) => partOf(steps, edges[i]!, until));
          expect(parts.map(({ id }) => id).sort()).toEqual(steps.map(({ id }) => id).sort());
        },
      ),
    );
  });
});
