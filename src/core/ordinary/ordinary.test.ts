import fc from 'fast-check';
import { expect, it } from 'vitest';
import { sketchOf, type Sketch } from '../contrast/sketch.ts';
import type { EvidenceEvent } from '../evidence/event.ts';
import { prepare } from '../evidence/prepare.ts';
import { exchange, facts, step } from '../evidence/samples.ts';
import { inOrdinary, likelihood, mostTold, Ordinary, rarer } from './ordinary.ts';

const url = 'http://ferry.test';
const passed = (id: string, events: EvidenceEvent[]): Sketch =>
  sketchOf(prepare(events, facts('passed', '')), { id, startedAt: 0 });
const asks = (status: number, ms: number): EvidenceEvent[] => [
  step(0, 10, { action: 'open', command: 'navigate to', input: `${url}/` }),
  exchange(20, 20 + ms, { url: `${url}/api/fare`, status }),
  step(60, 70, { action: 'press', command: 'element click' }),
];
const key = 'GET /api/fare';

it('tells in how many of those that asked something was so, the attempt itself left out', () => {
  const ordinary = new Ordinary();
  ordinary.take(passed('a', asks(200, 20)));
  ordinary.take(passed('b', asks(503, 100)));
  ordinary.take(passed('c', [step(0, 10, { action: 'open', command: 'navigate to', input: `${url}/` })]));
  expect(ordinary.ended(key, '5xx')).toEqual({ hits: 1, of: 2 });
  expect(ordinary.ended(key, '5xx', 'b')).toEqual({ hits: 0, of: 1 });
  expect(ordinary.tookAsLong(key, 90)).toEqual({ hits: 1, of: 2 });
  expect(ordinary.stepsDuring(key, 'act')).toEqual({ hits: 1, of: 2 });
  expect(ordinary.stepsDuring(key, 'read')).toEqual({ hits: 0, of: 2 });
  expect(ordinary.askedAgain(key, 1)).toEqual({ hits: 2, of: 3 });
  expect(ordinary.dialogs()).toEqual({ hits: 0, of: 3 });
});

it('takes an attempt that is drawn anew in place of what it was, and forgets it whole', () => {
  const ordinary = new Ordinary();
  ordinary.take(passed('a', asks(503, 20)));
  ordinary.take(passed('a', asks(200, 20)));
  expect(ordinary.size).toBe(1);
  expect(ordinary.ended(key, '5xx')).toEqual({ hits: 0, of: 1 });
  ordinary.forget('a');
  ordinary.forget('a');
  expect(ordinary.ended(key, '2xx')).toEqual({ hits: 0, of: 0 });
});

it('what has a name of its own each time is told by what lies beside it', () => {
  const ordinary = new Ordinary();
  for (const name of ['leaf', 'fern', 'moss'])
    ordinary.take(passed(name, [exchange(0, 5, { url: `${url}/ornaments/${name}.svg`, status: 404 })]));
  expect(ordinary.ended('GET /ornaments/ivy.svg', '4xx')).toEqual({ hits: 3, of: 3 });
  expect(ordinary.ended('GET /other/ivy.svg', '4xx')).toEqual({ hits: 0, of: 0 });
});

it('keeps to its bound', () => {
  const ordinary = new Ordinary();
  const sketch = passed('a', asks(200, 20));
  for (let i = 0; i < 1700; i++) ordinary.take({ ...sketch, id: `p${i}` });
  expect(ordinary.size).toBe(1500);
  expect(ordinary.ended(key, '2xx').of).toBe(1500);
});

it('what was seen more often tells less, and never less than nothing', () => {
  fc.assert(
    fc.property(fc.nat(400), fc.nat(400), (hits, more) => {
      const of = hits + more;
      const share = { hits, of };
      expect(likelihood(share)).toBeGreaterThan(0);
      expect(likelihood(share)).toBeLessThan(1);
      expect(mostTold(share)).toBeGreaterThanOrEqual(0);
      if (of > 0) expect(mostTold({ hits: Math.min(of, hits + 1), of })).toBeLessThanOrEqual(mostTold(share));
      expect(rarer(share, { hits: of, of })).toBe(share);
    }),
  );
  expect(mostTold({ hits: 0, of: 0 })).toBeCloseTo(3.64, 1);
  expect(mostTold({ hits: 130, of: 130 })).toBeLessThan(0.01);
  expect(inOrdinary({ hits: 41, of: 130 })).toBe('in 41 of 130 attempts that passed, of all tests');
});

it('knows what is thrown at its place, and what every page throws by its words', () => {
  const throws = (text: string, source: string): EvidenceEvent[] => [
    step(0, 10, { action: 'open', command: 'navigate to', input: `${url}/` }),
    {
      id: `x${source}`,
      lane: 'console',
      kind: 'exception',
      at: 30,
      clock: 'page',
      data: { level: 'error', text, source },
    },
  ];
  const ordinary = new Ordinary();
  for (const [i, page] of ['start', 'fares', 'seats'].entries())
    ordinary.take(passed(`a${i}`, throws('TypeError: wheel is null', `${url}/${page}:4:9`)));
  ordinary.take(passed('b', throws('TypeError: fare is null', `${url}/fares:8:1`)));
  const at = (text: string, place: string): number => {
    const [line] = passed('c', throws(text, `${url}/${place}`)).console;
    return ordinary.thrown(line!.key, line!.from).hits;
  };
  // The ornament's script throws on every page; here it throws on one more.
  expect(at('TypeError: wheel is null', 'crew:4:9')).toBe(3);
  expect(at('TypeError: wheel is null', 'start:4:9')).toBe(1);
  expect(at('TypeError: fare is null', 'fares:8:1')).toBe(1);
  // The same words at one other place may be another fault.
  expect(at('TypeError: fare is null', 'seats:2:2')).toBe(0);
});
