import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { toldLater, type Recorded, type Reported } from './told-later.ts';

const day = Date.UTC(2026, 10, 27, 9);
const test = (id: string, from: number, ms: number, more: Partial<Reported> = {}): Reported => ({
  id,
  title: `ferry > ${id}`,
  from: day + from,
  until: day + from + ms,
  timed: true,
  ...more,
});
const seen = (id: string, from: number, ms: number, title = 'http://lodos.example/'): Recorded => ({
  id,
  title,
  from: day + from,
  until: day + from + ms,
});
const pairsOf = (reported: Reported[], recorded: Recorded[]): string[] =>
  toldLater(reported, recorded)
    .pairs.map((one) => `${one.reported}=${one.recorded}`)
    .sort();

describe('what a report tells later', () => {
  it('is of the recording that ran then, also beside others', () => {
    const reported = [test('a', 217, 3000), test('b', 3391, 2000), test('c', 523, 6000)];
    const recorded = [seen('3', 780, 5500), seen('2', 3520, 1800), seen('1', 390, 2700)];
    expect(pairsOf(reported, recorded)).toEqual(['a=1', 'b=2', 'c=3']);
    const first = toldLater(reported, recorded).pairs.find((one) => one.reported === 'a');
    expect(first!.why).toBe("its 2.7 s lie in the 3.0 s that the report tells of it, and in no other's");
  });

  it('is of the one with its title, whatever ran beside it', () => {
    const reported = [test('holds a seat', 111, 3000), test('fares', 111, 3000)];
    const recorded = [seen('1', 200, 2800, 'holds a seat'), seen('2', 200, 2800)];
    expect(pairsOf(reported, recorded)).toEqual(['fares=2', 'holds a seat=1']);
  });

  it('is not guessed at where two ran at the same time', () => {
    const reported = [test('a', 111, 3000), test('b', 151, 3000)];
    const recorded = [seen('1', 200, 2800), seen('2', 230, 2800)];
    expect(toldLater(reported, recorded)).toEqual({ pairs: [], shared: [], doubtful: 2 });
  });

  it('may be up for a part of its test only, and in no other of its time', () => {
    expect(pairsOf([test('a', 111, 6000)], [seen('1', 4000, 1500)])).toEqual(['a=1']);
    const beside = [test('long', 111, 9000), test('short', 2111, 2000)];
    expect(pairsOf(beside, [seen('1', 200, 8600), seen('2', 2200, 1700)])).toEqual(['long=1', 'short=2']);
    expect(pairsOf([test('a', 111, 3000)], [seen('1', 2600, 1500)])).toEqual([]);
  });

  it('is of no test alone where a browser stayed up for several: each has its part', () => {
    const tests = [test('b', 5200, 900), test('a', 111, 5000)];
    const both = [seen('1', 100, 6100)];
    const part = (id: string, from: number, ms: number) => ({ reported: id, from: day + from, until: day + from + ms });
    expect(toldLater(tests, both)).toEqual({
      pairs: [],
      shared: [{ recorded: '1', parts: [part('a', 111, 5000), part('b', 5200, 900)] }],
      doubtful: 0,
    });
    expect(pairsOf([tests[1]!], [seen('1', 100, 6100)])).toEqual(['a=1']);
    // Beside another worker's nobody knows whose they are.
    expect(toldLater(tests, [...both, seen('2', 150, 6200)])).toEqual({ pairs: [], shared: [], doubtful: 2 });
    const beside = [...tests, test('c', 500, 3000)];
    expect(toldLater(beside, both)).toEqual({ pairs: [], shared: [], doubtful: 1 });
  });

  it('allows for times that were cut to whole seconds', () => {
    expect(pairsOf([test('a', 1000, 800)], [seen('1', 1700, 650)])).toEqual(['a=1']);
    expect(pairsOf([test('a', 1003, 800)], [seen('1', 1700, 650)])).toEqual([]);
  });

  it('takes times without a zone as the recordings have them', () => {
    const hours = 5.5 * 3_600_000;
    const reported = [
      test('a', 217 + hours, 3000, { unzoned: true }),
      test('b', 3391 + hours, 2000, { unzoned: true }),
    ];
    const recorded = [seen('1', 390, 2700), seen('2', 3520, 1800)];
    expect(pairsOf(reported, recorded)).toEqual(['a=1', 'b=2']);
    expect(
      pairsOf(
        reported.map(({ unzoned: _, ...one }) => one),
        recorded,
      ),
    ).toEqual([]);
  });

  it('goes by order where no times are told, and only where as many were recorded', () => {
    const untimed = [test('a', 0, 900, { timed: false }), test('b', 0, 2900, { timed: false })];
    expect(pairsOf(untimed, [seen('2', 5000, 2500), seen('1', 1000, 800)])).toEqual(['a=1', 'b=2']);
    expect(toldLater(untimed, [seen('1', 0, 900)])).toEqual({ pairs: [], shared: [], doubtful: 1 });
    expect(toldLater(untimed, [seen('1', 0, 5000), seen('2', 100, 2500)])).toEqual({
      pairs: [],
      shared: [],
      doubtful: 2,
    });
    // In the other order their durations are not those told.
    expect(pairsOf([untimed[1]!, untimed[0]!], [seen('1', 0, 900), seen('2', 2000, 9000)])).toEqual([]);
  });

  it('is found among many', () => {
    const many = Array.from({ length: 20_000 }, (_, i) => test(`t${i}`, i * 3000 + 7, 2900));
    const recorded = many.map(({ id }, i) => seen(id, i * 3000 + 200, 2500));
    expect(toldLater(many, recorded).pairs).toHaveLength(20_000);
  });

  it('never pairs one twice, and finds all of a run of one worker', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 900, max: 9000 }), fc.integer({ min: 0, max: 300 })), { maxLength: 30 }),
        (list) => {
          let clock = 7;
          const reported: Reported[] = [];
          const recorded: Recorded[] = [];
          for (const [i, [ms, late]] of list.entries()) {
            reported.push(test(`t${i}`, clock, ms));
            recorded.push(seen(`r${i}`, clock + late, ms - late - 20));
            clock += ms + 40;
          }
          const pairs = pairsOf(reported, recorded);
          expect(pairs).toEqual(list.map((_, i) => `t${i}=r${i}`).sort());
        },
      ),
    );
  });
});
