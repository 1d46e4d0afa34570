import { describe, expect, it } from 'vitest';
import { circumstances } from './circumstances.ts';
import { contrast } from './contrast.ts';
import { sketch, step } from './samples.ts';
import type { Sketch, SketchStep } from './sketch.ts';

/** Where attempts are told to part, and when: small ones, each with one thing that differs. */

const at = (sig: string, time: number, more: Partial<SketchStep> = {}): SketchStep =>
  step(sig, { at: time, until: time + 12, ...more });
const many = (n: number, make: (i: number) => Sketch): Sketch[] => Array.from({ length: n }, (_, i) => make(i));
let count = 0;
const id = (): string => `x${++count}`;

describe('what a target was found to be', () => {
  /** Opens, presses, reads; the text read had been so since a time. */
  const reading = (value: string, since: number): Sketch =>
    sketch(id(), [
      at('open /fares', 0),
      at('press #calm', 100),
      at('read text #fare', 400, { value, text: value, presence: 'visible', since }),
    ]);

  it('parts from when it came to be so, not from when it was read', () => {
    // In all of them the text stood there right after the page had come.
    const { split } = contrast(
      [reading('tomorrow 07:10', 40)],
      many(5, () => reading('18:40', 42)),
    );
    expect(split).toMatchObject({ slot: 0, at: 42 });
    expect(split!.summary).toContain('tomorrow 07:10');
  });

  it('parts from when others had changed, where it stayed what they were at first', () => {
    // Passing attempts read it 100 ms after it had changed.
    const { split } = contrast(
      [reading('…', 40)],
      many(5, () => reading('410 lira', 300)),
    );
    expect(split).toMatchObject({ slot: 1, at: 300 });
  });

  it('parts at the step where nobody saw since when it was so', () => {
    const plain = (value: string): Sketch =>
      sketch(id(), [at('open /fares', 0), at('press #calm', 100), at('read text #fare', 400, { value })]);
    const { split } = contrast(
      [plain('a')],
      many(5, () => plain('b')),
    );
    expect(split).toMatchObject({ slot: 2, at: 400 });
  });
});

describe('what was typed', () => {
  const typing = (held: boolean): Sketch =>
    sketch(id(), [
      at('open /berth', 0),
      at('type #berth', 100, { input: 'North 14', held }),
      at('press #note', 200),
      at('read text #noted', 300, { value: held ? 'Berth North 14' : 'Berth No' }),
    ]);

  it('parts where the field did not hold it, before anything comes of it', () => {
    const { split, differences } = contrast(
      [typing(false)],
      many(4, () => typing(true)),
    );
    expect(split).toMatchObject({ slot: 1, at: 100 });
    expect(differences.some(({ summary }) => summary.includes('the field held'))).toBe(true);
  });
});

describe('requests', () => {
  const going = (ended: string, status: number): Sketch => {
    const one = sketch(id(), [at('open /sign-in', 0), at('press #go', 100), at('read title', 400)], {
      requests: [['GET /sign-in/go', 110, 180]],
    });
    return { ...one, requests: one.requests.map((request) => ({ ...request, ended, status })) };
  };

  it('that passing attempts were redirected by part when they were answered otherwise', () => {
    const { differences } = contrast(
      [going('2xx', 200)],
      many(5, () => going('3xx', 302)),
    );
    const told = differences.find(({ kind }) => kind === 'status')!;
    expect(told.summary).toBe('not: GET /sign-in/go answered 302');
    expect(told.shown[0]!.at).toBe(180);
  });

  it('under way at a step are shown by the request that was', () => {
    const flying = (until: number): Sketch =>
      sketch(
        id(),
        [at('open /seats', 0), at('press #take', 300, { inFlight: until > 300 ? { 'GET /seats': until - 300 } : {} })],
        {
          requests: [['GET /seats', 50, until]],
        },
      );
    const failing = flying(900);
    const { differences } = contrast(
      [failing],
      many(5, () => flying(90)),
    );
    const told = differences.find(({ kind }) => kind === 'in-flight')!;
    expect(told.summary).toBe('GET /seats was still under way at “press #take”');
    expect(told.shown[0]).toEqual({ event: failing.requests[0]!.event, at: 300 });
  });
});

describe('what a page was made of', () => {
  const page = (blob: string, came: number): Sketch =>
    sketch(
      id(),
      [
        at('open /crew', 0, { page: '/' }),
        at('read text h1', 200, { page: '/crew' }),
        at('press #confirm', 500, { page: '/crew' }),
      ],
      {
        structures: [{ page: '/crew', blob, at: came, event: id() }],
      },
    );

  it('parts from when others had become it, where it had not', () => {
    const { differences } = contrast(
      [page('early', 120)],
      many(4, () => page('whole', 350)),
    );
    const told = differences.find(({ kind }) => kind === 'structure')!;
    expect(told.shown[0]!.at).toBe(350);
  });

  it('and from its own change, where that came later', () => {
    const { differences } = contrast(
      [page('other', 420)],
      many(4, () => page('whole', 350)),
    );
    expect(differences.find(({ kind }) => kind === 'structure')!.shown[0]!.at).toBe(420);
  });
});

describe('circumstances', () => {
  const ran = (environment: Partial<Sketch['environment']>, more: Partial<Sketch> = {}): Sketch => {
    const one = sketch(id(), [at('open /', 0)]);
    return { ...one, ...more, environment: { ...one.environment, ...environment } };
  };
  const told = (failing: Sketch[], passing: Sketch[]): string[] =>
    circumstances({ all: [...failing, ...passing], failing: failing.length, ends: [] }).map((one) => one.say('has'));

  it('name the browser, the size and the place by themselves', () => {
    expect(told([ran({ browser: 'webkit' })], [ran({}), ran({ browser: 'firefox' })])).toEqual(['ran in webkit']);
    expect(told([ran({ width: 560 })], [ran({})])).toEqual(['had a window of 560×800']);
    expect(told([ran({ place: 'ci' })], [ran({ place: 'desk' })])).toEqual(['ran at ci']);
  });

  it('and all of it together where no part alone tells', () => {
    const failing = [ran({ browser: 'webkit', width: 560 })];
    const passing = [ran({ browser: 'webkit' }), ran({ width: 560 }), ran({})];
    expect(told(failing, passing)).toContain('ran in webkit 156 560×800');
  });

  it('tell the commit and the neighbours, and nothing of neighbours that nobody knows', () => {
    const failing = [
      ran({}, { commit: 'bbbbbbbbbbbb', neighbours: { beside: ['takes seat 12A'], after: 'signs in' } }),
    ];
    const passing = [ran({}, { neighbours: { beside: [] } })];
    expect(told(failing, passing)).toEqual([
      'ran on commit bbbbbbbbbb',
      'ran beside “takes seat 12A”',
      'ran right after “signs in”',
    ]);
    expect(told([ran({})], [ran({})])).toEqual([]);
  });

  it('are never where attempts part', () => {
    const { split, differences } = contrast(
      [ran({ browser: 'webkit' })],
      many(5, () => ran({})),
    );
    expect(differences.length).toBeGreaterThan(0);
    expect(split).toBeUndefined();
  });
});

describe('several that failed the same way', () => {
  it('part where they all do, though one of them differs elsewhere too', () => {
    const failing = many(5, (i) =>
      sketch(id(), [
        at('open /seats', 0),
        at('press #take', 100, i === 0 ? { matches: 2 } : { matches: 1 }),
        at('read text #seat', 300, { value: '' }),
      ]),
    );
    const passing = many(6, () =>
      sketch(id(), [
        at('open /seats', 0),
        at('press #take', 100, { matches: 1 }),
        at('read text #seat', 300, { value: '12A' }),
      ]),
    );
    expect(contrast(failing.slice(0, 1), passing).split).toMatchObject({ slot: 1 });
    expect(contrast(failing, passing).split).toMatchObject({ slot: 2 });
  });

  it('parts from the first step on where every plain question took longer, and not where few were asked', () => {
    const steps = [step('open'), step('read text h1'), step('press #go'), step('read text #out')];
    const paced = (id: string, ms: number, count = 12) => sketch(id, steps, { pace: { ms, count } });
    const others = [18, 20, 22, 19, 21].map((ms, i) => paced(`p${i}`, ms));
    const slow = (count?: number) => [70, 80, 75, 90].map((ms, i) => paced(`f${i}`, ms, count));
    expect(contrast(slow(), others).split).toMatchObject({
      slot: 0,
      summary: expect.stringContaining('6 plain') as string,
    });
    expect(contrast(slow(3), others).split).toBeUndefined();
  });
});
