import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseDrill } from '../drill/parse.ts';
import { printDrill } from '../drill/print.ts';
import { armsFor, type Grounds } from './arms.ts';
import { matchesRequest } from './request-pattern.ts';
import { stepsOf, stressedDrill } from './stressed-drill.ts';
import { allWords, atDose, doseOf, kindsOfStressor, stressKey, words, type Stressor } from './stressor.ts';

const one: Record<Stressor['kind'], Stressor> = {
  hold: { kind: 'hold', request: 'GET /api/fare', ms: 400 },
  'hold-until': { kind: 'hold-until', request: 'GET /a', until: 'GET /b' },
  'late-body': { kind: 'late-body', request: 'GET /a', ms: 400 },
  fail: { kind: 'fail', request: 'GET /a', how: 'status', status: 503 },
  answer: { kind: 'answer', request: 'GET /a', attempt: 'a-1', exchange: 'n7' },
  'slow-line': { kind: 'slow-line', ms: 400 },
  outside: { kind: 'outside', how: 'blocked' },
  'slow-processor': { kind: 'slow-processor', factor: 6 },
  timers: { kind: 'timers', factor: 4 },
  pace: { kind: 'pace', factor: 0 },
  jitter: { kind: 'jitter', ms: 400 },
  'late-step': { kind: 'late-step', step: 2, ms: 600 },
  window: { kind: 'window', width: 390, height: 844 },
  'pixel-ratio': { kind: 'pixel-ratio', ratio: 2 },
  zone: { kind: 'zone', zone: 'Asia/Tokyo' },
  locale: { kind: 'locale', locale: 'tr-TR' },
  clock: { kind: 'clock', shiftMs: 90_000, standing: true },
  random: { kind: 'random', seed: 7 },
  data: { kind: 'data', shape: 'apostrophe' },
  animations: { kind: 'animations', factor: 8 },
  'reduced-motion': { kind: 'reduced-motion' },
  'cold-cache': { kind: 'cold-cache' },
  'drill-before': { kind: 'drill-before' },
  beside: { kind: 'beside', copies: 2 },
  background: { kind: 'background' },
};
const { drill } = parseDrill(`drill "books"
window 1280 x 800
open "http://ferry.test/"
pause 200 ms
type "Deniz" into css "#passenger"
press css "#hold"
check text of css "h1" is "Held"`);

describe('stressors', () => {
  it.each(Object.keys(kindsOfStressor) as Stressor['kind'][])('%s is said in words, with its dose', (kind) => {
    const stressor = one[kind];
    expect(words(stressor)).toMatch(/^[\p{L}\d“].{5,}[^.]$/u);
    expect(words(stressor)).not.toMatch(/undefined|NaN|\[object/);
    const { dose } = kindsOfStressor[kind];
    expect(doseOf(stressor) === undefined).toBe(dose === undefined);
    if (!dose) return expect(() => atDose(stressor, 1)).toThrow(RangeError);
    expect(doseOf(atDose(stressor, 3))).toBe(3);
    expect(dose.ladder).not.toContain(dose.none);
  });

  it('have one key, whatever the order of them and of their fields', () => {
    const [a, b] = [one.hold, one.window];
    expect(stressKey([a, b])).toBe(stressKey([b, { ms: 400, request: 'GET /api/fare', kind: 'hold' }]));
    expect(stressKey([a])).not.toBe(stressKey([atDose(a, 401)]));
    expect(allWords([])).toBe('as it is');
  });
});

describe('patterns of requests', () => {
  it('match as written, * standing for anything', () => {
    expect(matchesRequest('GET /api/fare/*', 'GET /api/fare/#')).toBe(true);
    expect(matchesRequest('* /api/*/x', 'POST /api/fare/x')).toBe(true);
    expect(matchesRequest('GET /a', 'GET /ab')).toBe(false);
    expect(matchesRequest('*ab*ab', 'ab')).toBe(false);
  });
  it('agree with the plain meaning of *, on any texts', () => {
    const text = fc.string({ unit: fc.constantFrom('a', 'b', '/'), maxLength: 8 });
    fc.assert(
      fc.property(fc.array(text, { minLength: 1, maxLength: 4 }), text, (parts, key) => {
        const plain = new RegExp(`^${parts.join('.*')}$`);
        expect(matchesRequest(parts.join('*'), key)).toBe(plain.test(key));
      }),
    );
  });
});

describe('a drill under stress', () => {
  const lines = (...stressors: Stressor[]): string[] =>
    printDrill(stressedDrill(drill!, stressors, 1))
      .split('\n')
      .slice(1);
  it('is what it was under what does not change it', () => {
    for (const kind of ['hold', 'zone', 'timers', 'background'] as const) expect(lines(one[kind])).toEqual(lines());
  });
  it('loses or stretches its pauses', () => {
    expect(lines(one.pace).join()).not.toContain('pause');
    expect(lines({ kind: 'pace', factor: 4 })).toContain('pause 800 ms');
  });
  it('has one step later, counted without what only sets up', () => {
    expect(stepsOf(drill!).map((line) => line.do)).toEqual(['open', 'type', 'press', 'check']);
    const late = lines(one['late-step']);
    expect(late[late.findIndex((line) => line.startsWith('type')) - 1]).toBe('pause 600 ms');
  });
  it('jitters differently in each trial, and the same again in the same', () => {
    const jittered = (number: number): string => printDrill(stressedDrill(drill!, [one.jitter], number));
    expect(jittered(1)).toBe(jittered(1));
    expect(jittered(1)).not.toBe(jittered(2));
  });
  it('has another window and other data', () => {
    expect(lines(one.window).filter((line) => line.startsWith('window'))).toEqual(['window 390 x 844']);
    expect(lines(one.data).join()).toContain("D'eniz");
  });
  it('can still be read as a drill', () => {
    for (const stressor of Object.values(one))
      expect(parseDrill(printDrill(stressedDrill(drill!, [stressor]))).errors).toEqual([]);
  });
});

describe('what is tried', () => {
  const grounds: Grounds = {
    drill: drill!,
    suspects: [{ cause: 'early-check', name: 'Checked before settled', probability: 0.7, requests: ['GET /api/fare'] }],
    sources: ['GET /api/seats'],
    requests: [
      { key: 'GET /', own: true, type: 'document' },
      { key: 'GET /api/fare', own: true, type: 'fetch' },
      { key: 'GET ads.test /slot', own: false, type: 'fetch' },
    ],
    now: Date.UTC(2026, 1, 10, 12),
    can: () => true,
  };
  it('begins with what the target waits for and what the evidence names', () => {
    const [first, second] = armsFor(grounds);
    expect(first).toMatchObject({ stressors: [{ kind: 'hold', request: 'GET /api/seats', ms: 1200 }] });
    expect(first!.why).toContain('waits for GET /api/seats');
    expect(second).toMatchObject({ stressors: [{ kind: 'hold', request: 'GET /api/fare' }] });
    expect(second!.why).toContain('Checked before settled');
  });
  it('holds what came late where it failed, whatever is suspected', () => {
    const slowed = [{ key: 'GET /fragments/saving', took: 1040, usually: 32 }];
    const answers = [{ key: 'GET /api/seats', attempt: 'a-1', exchange: 'n9', from: 1, how: 'new' as const }];
    const given = armsFor({ ...grounds, suspects: [], answers });
    expect(given.slice(0, 4).map(({ stressors }) => stressors[0]!.kind)).toContain('answer');
    // An answer that was another one and came late may take both.
    const late = [{ key: 'GET /api/seats', took: 1040, usually: 32 }];
    const both = armsFor({ ...grounds, suspects: [], answers, slowed: late }).filter(({ stressors }) => stressors[1]);
    expect(both.map(({ stressors }) => stressors)).toEqual([
      [
        { kind: 'answer', request: 'GET /api/seats', attempt: 'a-1', exchange: 'n9' },
        { kind: 'hold', request: 'GET /api/seats', ms: 1040 },
      ],
    ]);
    // What was another one only when it was asked for again is so only from then on.
    const later = [{ ...answers[0]!, from: 3 }];
    const [from] = armsFor({ ...grounds, suspects: [], sources: [], answers: later });
    expect(from!.stressors).toMatchObject([{ kind: 'answer', from: 3 }]);
    expect(words(from!.stressors[0]!)).toMatch(/from its answer 3 on$/);
    const [, second] = armsFor({ ...grounds, suspects: [], slowed });
    expect(second).toMatchObject({ stressors: [{ kind: 'hold', request: 'GET /fragments/saving', ms: 1200 }] });
    expect(second!.why).toBe(
      'GET /fragments/saving took 1.0 s in the attempt that failed, 32 ms at most in those that passed',
    );
  });
  it('holds what may be replaced for long, early on, whatever the ladder', () => {
    const replaced = [{ cause: 'replaced-element' as const, name: 'Replaced element', probability: 0.9, requests: [] }];
    const arms = armsFor({ ...grounds, sources: [], suspects: replaced });
    const long = arms.findIndex(({ stressors: [one] }) => one?.kind === 'late-step' && one.ms === 10_000);
    expect(long).toBeGreaterThanOrEqual(0);
    expect(long).toBeLessThan(6);
  });

  it('holds each thing once, and nothing that is forbidden or cannot be done', () => {
    const keys = armsFor(grounds).map(({ stressors }) => stressKey(stressors));
    expect(new Set(keys).size).toBe(keys.length);
    expect(armsFor({ ...grounds, forbid: ['hold'] }).some(({ stressors }) => stressors[0]!.kind === 'hold')).toBe(
      false,
    );
    expect(armsFor({ ...grounds, allow: ['zone'] }).every(({ stressors }) => stressors[0]!.kind === 'zone')).toBe(true);
    expect(armsFor({ ...grounds, can: ({ kind }) => kind === 'pace' })).toHaveLength(2);
  });
  it('knows the edges of the calendar', () => {
    const clock = armsFor({
      ...grounds,
      suspects: [{ cause: 'clock-dependent', name: 'Depends on date or zone', probability: 0.9, requests: [] }],
      allow: ['clock'],
    }).map(({ stressors: [only] }) => new Date(grounds.now + (only as { shiftMs: number }).shiftMs).toISOString());
    expect(clock).toEqual(
      expect.arrayContaining([
        '2026-02-10T23:59:00.000Z',
        '2026-02-28T23:59:00.000Z',
        '2026-12-31T23:59:00.000Z',
        '2028-02-29T23:59:00.000Z',
      ]),
    );
  });
});
