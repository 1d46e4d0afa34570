import fc from 'fast-check';
import { expect, it } from 'vitest';
import { parseDrill } from '../drill/parse.ts';
import { sketch, step } from '../contrast/samples.ts';
import type { Sketch } from '../contrast/sketch.ts';
import { readinessOf } from './readiness.ts';

/** A visit of the page of fares whose price comes with its answer, after everything else. */
function visit(i: number, answered: number, { early = false } = {}): { test: string; sketch: Sketch } {
  const came = early ? answered - 200 : answered + 10;
  const steps = [
    step('open /fares', { action: 'open', at: 0, until: 20, page: '/fares' }),
    step('read text #price', {
      action: 'read',
      at: answered + 60,
      until: answered + 66,
      page: '/fares',
      arrived: came,
    }),
    step('press #pay', { action: 'press', at: answered + 90, until: answered + 99, page: '/fares' }),
    // Comes upon the press, long after: no matter of the page's coming up.
    step('read text #paid', { action: 'read', at: answered + 900, page: '/fares', arrived: answered + 800 }),
  ];
  return {
    test: `t${i % 2}`,
    sketch: sketch(`a${i}`, steps, {
      requests: [
        ['GET /api/fare/#', 30, answered],
        ['GET /api/tips', 30, 60 + 40 * i],
        ...[0, 1, 2].map((n): [string, number, number] => ['GET /api/pulse', 30 + n * 100, 45 + n * 100]),
      ],
      until: answered + 1000,
    }),
  };
}
const six = [120, 180, 240, 300, 200, 260];

it('finds the answer that everything used comes with, as a drill waits for it, over tests', () => {
  const [page] = readinessOf(six.map((answered, i) => visit(i, answered)));
  expect(page).toMatchObject({ page: '/fares', visits: 6, tests: 2 });
  expect(page!.signs[0]).toMatchObject({
    kind: 'answer',
    subject: 'GET /api/fare/#',
    words: 'GET /api/fare/# has answered',
    condition: 'request "/api/fare/" is answered',
    held: 6,
    of: 6,
    lateMs: 0,
  });
  // What is asked for again and again is no sign, and an answer that comes before what is used is not one either.
  expect(page!.signs.map(({ subject }) => subject)).not.toContain('GET /api/pulse');
  expect(page!.signs.map(({ subject }) => subject)).not.toContain('GET /api/tips');
});

it('a line that pages write once they are up is a sign; one with data of the attempt is not', () => {
  const lines = (i: number, at: number): Sketch['console'] =>
    ['fares are up', `visit ${i}`].map((text) => ({
      key: text.replace(/\d+/, '#'),
      level: 'info',
      uncaught: false,
      at,
      event: `c${i}`,
      text,
    }));
  const all = six.map((answered, i) => {
    const one = visit(i, answered);
    return { ...one, sketch: { ...one.sketch, console: lines(i, answered + 12) } };
  });
  const signs = readinessOf(all)[0]!.signs.filter(({ kind }) => kind === 'console');
  expect(signs.map(({ condition }) => condition)).toEqual(['console says "fares are up"']);
});

it('a sign that tests wait for is not its own witness, and every condition is one of a drill', () => {
  const all = six.map((answered, i) => {
    const one = visit(i, answered);
    const wait = step('find html.live', { action: 'wait', at: 30, until: answered + 20, page: '/fares', polls: 4 });
    const live = { ...wait, locator: 'css=html.live' };
    const [open, ...rest] = one.sketch.steps;
    return { ...one, sketch: { ...one.sketch, steps: [open!, live, ...rest] } };
  });
  const { signs } = readinessOf(all)[0]!;
  expect(signs.find(({ kind }) => kind === 'element')).toMatchObject({
    condition: 'css "html.live" is there',
    held: 6,
    of: 6,
    lateMs: 10,
  });
  expect(signs.map(({ kind }) => kind)).toContain('quiet');
  for (const { condition } of signs) expect(parseDrill(`wait until ${condition}`).errors).toEqual([]);
  // Alone it tells nothing: nobody else saw when the page was ready.
  const alone = all.map((one) => ({ ...one, sketch: { ...one.sketch, steps: one.sketch.steps.slice(0, 2) } }));
  expect(readinessOf(alone).flatMap((page) => page.signs.map(({ kind }) => kind))).not.toContain('element');
});

it('is not told of pages that came seldom, or that had everything from the beginning', () => {
  expect(readinessOf(six.slice(0, 2).map((answered, i) => visit(i, answered)))).toEqual([]);
  const still = sketch('s', [
    step('open /help', { action: 'open', page: '/help' }),
    step('read text #a', { page: '/help' }),
  ]);
  expect(readinessOf(Array.from({ length: 5 }, () => ({ test: 't', sketch: still })))).toEqual([]);
});

it('holds in no more visits than there are, and the surest come first', () => {
  const times = fc.array(fc.record({ answered: fc.integer({ min: 90, max: 900 }), early: fc.boolean() }), {
    maxLength: 12,
  });
  fc.assert(
    fc.property(times, (list) => {
      for (const { signs, visits } of readinessOf(
        list.map(({ answered, early }, i) => visit(i, answered, { early })),
      )) {
        for (const { held, of, lateMs, rate } of signs) {
          expect(held).toBeLessThanOrEqual(of);
          expect(of).toBeLessThanOrEqual(visits);
          expect(lateMs).toBeGreaterThanOrEqual(0);
          expect(rate.low).toBeGreaterThanOrEqual(0.5);
        }
        expect(signs.map(({ rate }) => rate.low)).toEqual(signs.map(({ rate }) => rate.low).sort((a, b) => b - a));
      }
    }),
  );
});
