import { describe, expect, it } from 'vitest';
import { parseDrill } from '../drill/parse.ts';
import type { Drill } from '../drill/drill.ts';
import { changedSpans, remedyCost } from './remedy-cost.ts';

const drill = (...lines: string[]): Drill => parseDrill(['drill "pays"', ...lines].join('\n')).drill!;
const [open, press, read, again] = [
  'open "/"',
  'press css "#pay"',
  'check text of css "#sum" is "£8"',
  'press css "#next"',
];
const wait = 'wait until css "#pay" is there up to 5 s';

describe('where two drills differ', () => {
  it('reaches to the next action and holds it', () => {
    expect(changedSpans(drill(open!, press!, read!), drill(open!, wait, press!, read!))).toEqual({
      before: [{ from: 1, to: 2 }],
      after: [{ from: 1, to: 3 }],
    });
  });

  it('is one place as long as nothing acts in between, and several else', () => {
    const before = drill(open!, 'pause 500 ms', read!, press!, read!, again!);
    const after = drill(open!, wait, read!, press!, wait, read!, again!);
    expect(changedSpans(before, after)).toEqual({
      before: [
        { from: 1, to: 4 },
        { from: 4, to: 6 },
      ],
      after: [
        { from: 1, to: 4 },
        { from: 4, to: 7 },
      ],
    });
  });

  it('reaches to the end where nothing acts any more, and is nowhere in the same drill', () => {
    expect(changedSpans(drill(open!, read!), drill(open!, wait, read!)).after).toEqual([{ from: 1, to: 3 }]);
    expect(changedSpans(drill(open!, read!), drill(open!, read!))).toEqual({ before: [], after: [] });
  });
});

describe('what a remedy costs', () => {
  it('is nothing where its wait takes what the next action took', () => {
    const took = { before: [[300, 180, 5]], after: [[900, 160, 20, 700]] };
    expect(remedyCost(drill(open!, press!, read!), drill(open!, wait, press!, read!), took)!.point).toBe(0);
  });

  it('is less than nothing where a pause goes', () => {
    const before = drill(open!, 'pause 500 ms', press!);
    const took = { before: [[300, 500, 40]], after: [[300, 60, 40]] };
    expect(remedyCost(before, drill(open!, wait, press!), took)!.point).toBe(-440);
    expect(remedyCost(before, before, { before: [], after: [] })).toBeUndefined();
  });
});
