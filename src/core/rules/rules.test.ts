import { riskKinds, type Risk } from '../risks/risk.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ConsoleData, ConsoleEvent } from '../evidence/event.ts';
import { exchange, facts } from '../evidence/samples.ts';
import { prepare } from '../evidence/prepare.ts';
import { Policies, policyNames } from './against.ts';
import { whatChanged } from './changed.ts';
import { complaintsOf, mostComplaints, type Complaint } from './complaints.ts';
import { previewFrames, previewMask } from './preview-reading.ts';
import { previewRules, type Heard } from './preview.ts';
import { consoleLevels, noRules, requestEnds, type StandingRules } from './standing-rules.ts';
import { linearPattern } from '../patterns/linear-pattern.ts';

let number = 0;
const line = (at: number, data: Partial<ConsoleData>, kind: ConsoleEvent['kind'] = 'line'): ConsoleEvent => ({
  id: `c${++number}`,
  lane: 'console',
  kind,
  at,
  clock: 'browser',
  data: { level: 'error', text: 'x', source: 'http://ferry.test/app.js:3', ...data },
});
const told = (...events: Parameters<typeof prepare>[0]) => complaintsOf(prepare(events, facts('passed', '')), []);
const rules = (more: {
  console?: Partial<StandingRules['console']>;
  requests?: Partial<StandingRules['requests']>;
}): StandingRules => ({
  ...noRules,
  console: { ...noRules.console, effect: 'fails', ...more.console },
  requests: { ...noRules.requests, effect: 'fails', ...more.requests },
  risks: noRules.risks,
});
const day = 86_400_000;

describe('what was complained of', () => {
  const own = exchange(0, 5, { url: 'http://ferry.test/', host: 'ferry.test', own: true });

  it('tells lines, what nothing caught, what was caught and written down, and what a handler suppressed apart', () => {
    const all = told(
      own,
      line(1, { level: 'warning', text: 'slow' }),
      line(2, { text: 'TypeError: x is undefined', uncaught: true }, 'exception'),
      line(3, { text: 'saving failed: RangeError: no such seat' }),
      line(4, { text: 'Error: boom', suppressed: true }, 'exception'),
    );
    expect(all.map(({ kind, by }) => [kind, by])).toEqual([
      ['line', undefined],
      ['exception', undefined],
      ['swallowed', 'caught'],
      ['swallowed', 'handler'],
    ]);
  });

  it('counts what comes again, and keeps no more than so many different ones', () => {
    const same = Array.from({ length: 30 }, (_, i) => line(i, { text: 'again' }));
    expect(told(...same).map(({ count, at }) => [count, at])).toEqual([[30, 0]]);
    const many = Array.from({ length: mostComplaints + 50 }, (_, i) => line(i, { text: `number ${i}` }));
    expect(told(...many)).toHaveLength(mostComplaints);
  });

  it('knows whose script spoke, and on which page', () => {
    const [ours, theirs, unknown] = told(
      own,
      line(1, { text: 'a' }),
      line(2, { text: 'b', source: 'http://ads.test/x.js:1' }),
      line(3, { text: 'c', source: undefined }),
    );
    expect([ours!.own, theirs!.own, unknown!.own]).toEqual([true, false, true]);
  });

  it('names own requests that went wrong, and none that were called off, still under way or of others', () => {
    const wrong = told(
      exchange(0, 5, { url: 'http://ferry.test/api/seats/1840', status: 500, own: true }),
      exchange(1, 5, { url: 'http://ferry.test/api/fare', status: 404, own: true }),
      exchange(2, 5, { url: 'http://ferry.test/a', status: undefined, failed: 'net::ERR_CONNECTION_RESET', own: true }),
      exchange(3, 5, { url: 'http://ferry.test/b', status: undefined, failed: 'net::ERR_ABORTED', own: true }),
      exchange(4, 5, { url: 'http://ads.test/c', host: 'ads.test', status: 500, own: false }),
      exchange(5, 5, { url: 'http://ferry.test/d', status: 200, own: true }),
    );
    expect(wrong.map(({ ended, text }) => [ended, text])).toEqual([
      ['5xx', 'GET /api/seats/# answered 500'],
      ['4xx', 'GET /api/fare answered 404'],
      ['failed', 'GET /a failed: net::ERR_CONNECTION_RESET'],
    ]);
  });

  it('calls out a command that failed while the test went on, when it is sure', () => {
    const clue = {
      code: 'error-swallowed' as const,
      at: 40,
      summary: 'Press on “Hold seat” failed, and the test went on',
      evidence: ['s4'],
    };
    const of = (strength: number) => complaintsOf(prepare([], facts('passed', '')), [{ ...clue, strength }]);
    expect(of(0.95)).toMatchObject([{ kind: 'swallowed', by: 'test', event: 's4', at: 40 }]);
    expect(of(0.55)).toEqual([]);
  });
});

describe('what is against the rules', () => {
  const complaint = (more: Partial<Complaint>): Complaint => ({
    kind: 'line',
    level: 'error',
    text: 'no fare',
    own: true,
    count: 1,
    at: 10,
    event: 'e1',
    source: 'http://ferry.test/app.js:3',
    page: 'http://ferry.test/sailings',
    ...more,
  });
  const against = (one: Partial<Complaint>, console: Partial<StandingRules['console']>, at = 0) =>
    new Policies(rules({ console })).against([complaint(one)], at);

  it('is nothing while a policy is off, and is only told where it only tells', () => {
    expect(new Policies(noRules).against([complaint({})], 0)).toBeUndefined();
    expect(against({}, { effect: 'tells' })).toMatchObject({ fails: false, breaches: [{ effect: 'tells' }] });
    expect(against({}, {})).toMatchObject({ fails: true, more: 0 });
  });

  it('goes by level, origin and address', () => {
    expect(against({ level: 'warning' }, {})).toBeUndefined();
    expect(against({ level: 'warning' }, { levels: ['warning'] })?.fails).toBe(true);
    expect(against({ own: false }, {})).toBeUndefined();
    expect(against({ own: false }, { from: 'everywhere' })?.fails).toBe(true);
    expect(against({}, { only: ['/crew'] })).toBeUndefined();
    expect(against({}, { only: ['/crew', '/sailings'] })?.fails).toBe(true);
  });

  it('counts exceptions whatever the levels, and what was swallowed only where that is asked for', () => {
    const none = { levels: [] };
    expect(against({ kind: 'exception' }, none)?.fails).toBe(true);
    expect(against({ kind: 'exception' }, { ...none, uncaught: false })).toBeUndefined();
    expect(against({ kind: 'swallowed', by: 'handler', level: undefined }, none)?.breaches[0]!.words).toBe(
      'An exception was suppressed by a handler on the page: “no fare”',
    );
    expect(
      against({ kind: 'swallowed', by: 'handler', level: undefined }, { ...none, swallowed: false }),
    ).toBeUndefined();
    // Written down as an error it is a line of that level as well.
    expect(against({ kind: 'swallowed', by: 'caught' }, { swallowed: false })?.fails).toBe(true);
  });

  it('lets pass what an exemption fits, until its end', () => {
    const exempt = [{ pattern: 'no \\w+', reason: 'known', owner: 'pricing', until: 10 * day }];
    expect(against({}, { exempt }, 9 * day)).toBeUndefined();
    expect(against({}, { exempt }, 10 * day)).toBeUndefined();
    expect(against({}, { exempt }, 10 * day + 1)?.fails).toBe(true);
    expect(against({ text: 'other' }, { exempt }, 0)?.fails).toBe(true);
  });

  it('keeps what fails before what is only told, and says how much more there is', () => {
    const many = Array.from({ length: 30 }, (_, i) => complaint({ text: `n${i}`, at: i, event: `e${i}` }));
    const request = complaint({
      kind: 'request',
      level: undefined,
      ended: '5xx',
      text: 'GET /api answered 500',
      at: 99,
    });
    const both = new Policies(rules({ console: { effect: 'tells' } })).against([...many, request], 0)!;
    expect(both.breaches[0]!.policy).toBe('requests');
    expect(both.breaches).toHaveLength(20);
    expect(both).toMatchObject({ fails: true, more: 11 });
  });
});

const anyComplaint: fc.Arbitrary<Complaint> = fc
  .record({
    kind: fc.constantFrom(
      'line' as const,
      'exception' as const,
      'swallowed' as const,
      'request' as const,
      'risk' as const,
    ),
    text: fc.constantFrom('no fare', 'no seat 12', 'boom', 'saved'),
    level: fc.constantFrom(...consoleLevels),
    ended: fc.constantFrom(...requestEnds),
    risk: fc.constantFrom(...riskKinds),
    own: fc.boolean(),
    page: fc.constantFrom('http://ferry.test/sailings', 'http://ferry.test/crew'),
  })
  .map(({ ended, level, risk, ...one }) => ({
    ...one,
    ...(one.kind === 'request' ? { ended } : one.kind === 'risk' ? { risk } : { level }),
    count: 1,
    at: 1,
    event: 'e',
  }));
const anyExempt = fc.uniqueArray(
  fc.record({
    pattern: fc.constantFrom('fare', 'seat \\d+', '^boom$'),
    reason: fc.constant('known'),
    owner: fc.constant(''),
    until: fc.option(fc.integer({ min: 0, max: 10 }).map((days) => days * day)),
  }),
  { maxLength: 3, selector: ({ pattern }) => pattern },
);
const anyDays = fc.option(fc.constantFrom(7, 30));
const anyTerm = fc.record({
  run: fc.constantFrom('', 'nightly'),
  branch: fc.constantFrom('', 'main'),
  failing: fc.record({ pictures: anyDays, rest: anyDays }),
  passing: fc.record({ pictures: anyDays, rest: anyDays, oneIn: fc.constantFrom(1, 5) }),
});
const anyRules: fc.Arbitrary<StandingRules> = fc.record({
  frames: fc.record({ own: fc.subarray(['a', 'b']), library: fc.subarray(['c']) }),
  masks: fc.subarray(['LF-\\d+', 'x+']),
  hosts: fc.record({ own: fc.subarray(['*.lodos.example']), outside: fc.subarray(['ads.example', 'b.example:81']) }),
  thresholds: fc.record({
    movedPx: fc.constantFrom(6, 20),
    slowCommandMs: fc.constantFrom(75, 200),
    stretchedBy: fc.constantFrom(1.8, 3),
    nearLimit: fc.constantFrom(0.7, 0.9),
  }),
  limits: fc.record({ events: fc.constantFrom(200_000, 5000), picturesMb: fc.constantFrom(2048, 20) }),
  keeping: fc.record({
    terms: fc.array(anyTerm, { maxLength: 2 }),
    budgetGb: fc.option(fc.constantFrom(5, 20)),
  }),
  console: fc.record({
    effect: fc.constantFrom('off' as const, 'tells' as const, 'fails' as const),
    levels: fc.subarray([...consoleLevels]),
    uncaught: fc.boolean(),
    swallowed: fc.boolean(),
    from: fc.constantFrom('own' as const, 'everywhere' as const),
    only: fc.subarray(['/crew']),
    exempt: anyExempt,
  }),
  requests: fc.record({
    effect: fc.constantFrom('off' as const, 'tells' as const, 'fails' as const),
    ends: fc.subarray([...requestEnds]),
    only: fc.subarray(['/crew']),
    exempt: anyExempt,
  }),
  risks: fc.record({
    effect: fc.constantFrom('off' as const, 'tells' as const, 'fails' as const),
    kinds: fc.subarray([...riskKinds]),
    only: fc.subarray(['Press']),
    exempt: anyExempt,
  }),
});

describe('what may make a test flake', () => {
  it('is against a rule that names its kind, whatever its times, and not against others', () => {
    const risk: Risk = {
      kind: 'fixed-sleep',
      key: 'k',
      step: 'Read text of “Fare”',
      at: 5,
      summary: 'Slept 412 ms',
      change: 'Wait',
      strength: 1,
      evidence: ['s1'],
    };
    const [one] = complaintsOf(prepare([], facts('passed')), [], [risk]);
    expect(one).toMatchObject({ kind: 'risk', text: 'sleeps a fixed time: Read text of “Fare”', event: 's1' });
    const policy = (more: Partial<StandingRules['risks']>): ReturnType<Policies['against']> =>
      new Policies({ ...noRules, risks: { ...noRules.risks, effect: 'fails', ...more } }).against([one!], 0);
    expect(policy({})).toMatchObject({
      fails: true,
      breaches: [{ policy: 'risks', words: 'The test sleeps a fixed time: Read text of “Fare”' }],
    });
    expect(policy({ effect: 'tells' })!.fails).toBe(false);
    expect(policy({ kinds: ['unwaited'] })).toBeUndefined();
    expect(policy({ only: ['Press on'] })).toBeUndefined();
    expect(policy({ exempt: [{ pattern: 'Fare', reason: 'known', owner: '', until: null }] })).toBeUndefined();
  });
});

describe('before rules are set', () => {
  it('what they say they would do is what they do', () => {
    const anyHeard: fc.Arbitrary<Heard[]> = fc.array(
      fc.record({
        id: fc.uuid(),
        test: fc.constantFrom('t1', 't2', 't3'),
        title: fc.constant('books'),
        outcome: fc.constantFrom('passed' as const, 'failed' as const),
        startedAt: fc.integer({ min: 0, max: 10 }).map((days) => days * day),
        complaints: fc.array(anyComplaint, { maxLength: 5 }),
      }),
      { maxLength: 20 },
    );
    fc.assert(
      fc.property(anyRules, anyHeard, (some, heard) => {
        const preview = previewRules(some, heard, 1);
        for (const policy of policyNames) {
          const only = { ...noRules, [policy]: { ...some[policy], effect: 'fails' as const } };
          const policies = new Policies(only);
          const failed = heard.filter(
            ({ outcome, complaints, startedAt }) =>
              outcome === 'passed' && policies.against(complaints, startedAt)?.fails,
          );
          expect(preview[policy].wouldFail).toBe(failed.length);
          expect(preview[policy].tests).toBe(new Set(failed.map(({ test }) => test)).size);
          expect(preview[policy].exempted).toHaveLength(some[policy].exempt.length);
        }
      }),
    );
  });

  it('says it in a sentence, with the one message that most are failed by', () => {
    const one = (id: number, ...texts: string[]): Heard => ({
      id: `a${id}`,
      test: `t${id}`,
      title: 'books',
      outcome: id < 10 ? 'passed' : 'failed',
      startedAt: id,
      complaints: texts.map((text) => ({
        kind: 'line',
        level: 'error',
        text,
        own: true,
        count: 1,
        at: id,
        event: `e${id}`,
      })),
    });
    const heard = [one(1, 'no fare 12'), one(2, 'no fare 7'), one(3, 'boom', 'no fare 9'), one(4), one(10, 'boom')];
    const { console, requests } = previewRules(rules({}), heard, 2);
    expect(console.words).toBe(
      '3 of 4 attempts that passed would have failed, 2 of them by one message; 1 that failed anyhow has such messages too',
    );
    expect(console.voices.map(({ words, passed, attempts, tests }) => [words, passed, attempts, tests])).toEqual([
      ['The console says “no fare 12” (error)', 3, 3, 3],
      ['The console says “boom” (error)', 1, 2, 2],
    ]);
    expect(console.voices[0]!.example).toMatchObject({ attempt: 'a3', at: 3 });
    expect(requests.words).toBe('None of 4 attempts that passed would have failed');
  });

  it('says of an ended exemption whom it no longer lets pass', () => {
    const exempt = [{ pattern: 'fare', reason: 'known', owner: '', until: 5 * day }];
    const heard = [4, 6].map((days): Heard => ({
      id: `a${days}`,
      test: 't',
      title: 'books',
      outcome: 'passed',
      startedAt: days * day,
      complaints: [{ kind: 'line', level: 'error', text: 'no fare', own: true, count: 1, at: 1, event: 'e' }],
    }));
    const { console } = previewRules(rules({ console: { exempt } }), heard, 1);
    expect(console).toMatchObject({ wouldFail: 1, exempted: [{ attempts: 1, ended: 1 }] });
  });

  it('reads stacks by both rules, and tries masks on what is kept', () => {
    const stack = 'Error: x\n    at press (/team/support/press.ts:4:1)\n    at test (/team/holds.seat.ts:9:2)';
    const failures = [{ attempt: 'a1', title: 'holds', stack }];
    expect(previewFrames(noRules.frames, { own: [], library: ['/support/'] }, failures)).toEqual({
      of: 1,
      changed: 1,
      examples: [{ attempt: 'a1', title: 'holds', before: 'press.ts:4', after: 'holds.seat.ts:9' }],
    });
    const kept = [
      {
        attempt: 'a1',
        texts: [
          { event: 'e1', text: 'LF-1840' },
          { event: 'e2', text: 'LF-1' },
        ],
      },
      { attempt: 'a2', texts: [{ event: 'e3', text: 'none' }] },
    ];
    expect(previewMask(linearPattern('LF-\\d+'), kept)).toEqual({
      of: 2,
      attempts: 1,
      places: 2,
      examples: [{ attempt: 'a1', event: 'e1' }],
    });
  });
});

it('every change of the rules is told, and nothing else', () => {
  fc.assert(
    fc.property(anyRules, anyRules, (before, after) => {
      expect(whatChanged(before, before)).toEqual([]);
      // The order of a list, and an exemption written twice, are no change of what holds.
      const plain = ({ console, requests, risks: _, ...rest }: StandingRules): string =>
        JSON.stringify([
          rest,
          { ...console, exempt: ends(console.exempt) },
          { ...requests, exempt: ends(requests.exempt) },
        ]);
      const ends = (list: StandingRules['console']['exempt']) =>
        [...new Map(list.map((one) => [one.pattern, one.until]))].sort();
      if (plain(before) !== plain(after)) expect(whatChanged(before, after)).not.toEqual([]);
    }),
  );
});
