import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { analyse } from '../../core/analyse.ts';
import type { Outcome } from '../../core/evidence/attempt.ts';
import { css, element, facts, line, stale, step } from '../../core/evidence/samples.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { familyId } from '../../core/families/fingerprint.ts';
import { familiesOfRun } from '../api/run-families.ts';
import { Store } from './store.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-store-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true });
});

const environment = { browser: 'chromium', version: '156.0.1', width: 1280, height: 800 };
function attempt(
  run: string,
  title: string,
  outcome: Outcome,
  startedAt = 1000,
  more: { number?: number; width?: number; seriesId?: string } = {},
): string {
  const id = store.attempts.begin({
    runId: run,
    test: { suite: 's', title },
    number: more.number,
    environment: { ...environment, width: more.width ?? 1280 },
    startedAt,
    seriesId: more.seriesId,
  });
  if (outcome !== 'unreported') store.attempts.outcome(id, outcome, '', '');
  store.attempts.end(id, 10);
  return id;
}
function settle(id: string, events: EvidenceEvent[], outcome: Outcome = 'failed', message = ''): void {
  store.events.write(id, events);
  const analysis = analyse(events, facts(outcome, message), { id, startedAt: 0, passing: [] });
  store.together(() => {
    store.events.replaceDerived(id, analysis.derived, analysis.labels);
    store.attempts.settle(id, analysis, 1);
  });
}
const staleEvents = (): EvidenceEvent[] => {
  const find = step(1, 5, { action: 'find', command: 'find element', locator: css('#hold') });
  return [
    find,
    element(0, 'appeared', 'css=#hold', { node: 1, name: 'Hold seat' }),
    element(20, 'replaced', 'css=#hold', { node: 2, name: 'Hold seat' }),
    step(30, 35, { action: 'press', command: 'element click', locator: css('#hold'), foundBy: find.id, error: stale }),
  ];
};

describe('runs', () => {
  it('the same name is the same run; unnamed sessions of one burst share one', () => {
    expect(store.runs.named('nightly', 1)).toBe(store.runs.named('nightly', 2));
    const first = store.runs.unnamed(1_000_000);
    attempt(first, 'a', 'passed', 1_000_000);
    expect(store.runs.unnamed(1_060_000)).toBe(first);
    expect(store.runs.unnamed(9_000_000)).not.toBe(first);
  });

  it('counts every test once: failed before flaky before passed', () => {
    const run = store.runs.named('r', 1);
    attempt(run, 'steady', 'passed');
    attempt(run, 'flaky', 'failed');
    attempt(run, 'flaky', 'passed');
    attempt(run, 'broken', 'failed');
    attempt(run, 'broken', 'failed');
    attempt(run, 'mixed', 'passed');
    attempt(run, 'mixed', 'failed', 1000, { width: 390 });
    attempt(run, 'none', 'skipped');
    attempt(run, 'silent', 'unreported');
    expect(store.runs.get(run)!.totals).toEqual({
      tests: 6,
      attempts: 9,
      passed: 1,
      failed: 2,
      flaky: 1,
      skipped: 1,
      errored: 0,
      interrupted: 0,
      unreported: 1,
      against: 0,
    });
  });

  it('trials are no runs of tests', () => {
    store.runs.named('trials', 5, { kind: 'trials' });
    store.runs.named('tests', 4);
    expect(store.runs.newest().map((run) => run.name)).toEqual(['tests']);
  });

  it('come newest first, and older ones on asking', () => {
    for (const at of [10, 30, 20]) store.runs.named(`at ${at}`, at);
    expect(store.runs.newest(2).map((run) => run.startedAt)).toEqual([30, 20]);
    expect(store.runs.newest(2, 20).map((run) => run.startedAt)).toEqual([10]);
  });
});

describe('attempts', () => {
  it('are numbered in order for each test and environment', () => {
    const run = store.runs.named('r', 1);
    const ids = [
      attempt(run, 'a', 'failed'),
      attempt(run, 'a', 'passed'),
      attempt(run, 'a', 'passed', 1000, { width: 390 }),
    ];
    expect(ids.map((id) => store.attempts.get(id)!.number)).toEqual([1, 2, 1]);
  });

  it('without a told outcome are interrupted when something cut them off, else unreported', () => {
    const run = store.runs.named('r', 1);
    const begin = (): string =>
      store.attempts.begin({ runId: run, test: { suite: '', title: 't' }, environment, startedAt: 1 });
    const cut = begin();
    store.attempts.end(cut, 5, 'the browser went away');
    const quiet = begin();
    store.attempts.end(quiet, 5);
    const told = begin();
    store.attempts.outcome(told, 'passed', '', '');
    store.attempts.end(told, 5, 'the browser went away');
    expect([cut, quiet, told].map((id) => store.attempts.get(id)!.outcome)).toEqual([
      'interrupted',
      'unreported',
      'passed',
    ]);
  });

  it('settle whole: failure, family, clues and suspects, the old ones replaced', () => {
    const id = attempt(store.runs.named('r', 1), 'a', 'failed');
    settle(id, staleEvents(), 'failed', stale.message);
    settle(id, [], 'failed', stale.message);
    settle(id, staleEvents(), 'failed', stale.message);
    const settled = store.attempts.get(id)!;
    expect(settled).toMatchObject({ state: 'ready', undetermined: false, leading: { cause: 'replaced-element' } });
    expect(store.attempts.clues(id).filter((clue) => clue.code === 'held-across-replacement')).toHaveLength(1);
    const suspects = store.attempts.suspects(id);
    expect(suspects).toHaveLength(25);
    expect(suspects[0]!.for.map((clue) => clue.code)).toContain('held-across-replacement');
    expect(
      store.events
        .recorded(id)
        .find((event) => event.kind === 'command' && event.lane === 'step' && event.data.action === 'press'),
    ).toMatchObject({ data: { label: 'Press on “Hold seat”' } });
  });

  it('finds what older rules analysed', () => {
    const id = attempt(store.runs.named('r', 1), 'a', 'failed');
    settle(id, staleEvents());
    expect(store.attempts.olderThanAnalysis(1)).toEqual([]);
    expect(store.attempts.olderThanAnalysis(2)).toEqual([id]);
  });
});

describe('events', () => {
  it('are written all or not at all', () => {
    const id = attempt(store.runs.named('r', 1), 'a', 'passed');
    const broken = { ...line(2, 'x'), at: null as unknown as number };
    expect(() => store.events.write(id, [line(1, 'a'), broken])).toThrow();
    expect(store.events.recorded(id)).toEqual([]);
  });

  it('come by lane and time, page by page, none twice and none lost', () => {
    const id = attempt(store.runs.named('r', 1), 'a', 'passed');
    const events = Array.from({ length: 25 }, (_, i) => line(Math.floor(i / 5), `line ${i}`));
    store.events.write(id, [...events, step(1, 90, { action: 'open' })]);
    const got: string[] = [];
    let after: string | null = '';
    while (after !== null) {
      const page: { events: EvidenceEvent[]; after: string | null } = store.events.page(id, {
        lane: ['console'],
        limit: 4,
        after,
      });
      got.push(...page.events.map((event) => event.id));
      after = page.after;
    }
    expect(got).toHaveLength(25);
    expect(new Set(got).size).toBe(25);
    expect(store.events.page(id, { from: 50 }).events.map((event) => event.lane)).toEqual(['step']);
    expect(store.events.page(id, { until: 0 }).events).toHaveLength(5);
    expect(store.events.lastTime(id)).toBe(90);
  });
});

describe('blobs', () => {
  it('the same content is one file with one name', async () => {
    const one = await store.blobs.keep(Buffer.from('picture'), 'image/png');
    expect(await store.blobs.keep(Buffer.from('picture'), 'image/png')).toBe(one);
    expect(await store.blobs.read(one)).toEqual(Buffer.from('picture'));
    expect(store.blobs.find(one)).toEqual({ mime: 'image/png', size: 7 });
  });

  it('what a killed server had not finished is gone at the next start', () => {
    mkdirSync(join(home, 'blobs', 'unfinished'), { recursive: true });
    writeFileSync(join(home, 'blobs', 'unfinished', 'half'), 'ha');
    store.close();
    store = new Store(home);
    expect(readdirSync(join(home, 'blobs', 'unfinished'))).toEqual([]);
  });

  it('names that are no hash reach no file', async () => {
    expect(() => store.blobs.stream('../../iskel.sqlite')).toThrow(RangeError);
    expect(existsSync(join(home, 'iskel.sqlite'))).toBe(true);
  });
});

describe('verdicts', () => {
  const family = (): string => {
    const id = attempt(store.runs.named('r', 1), 'a', 'failed');
    settle(id, staleEvents(), 'failed', stale.message);
    return store.attempts.get(id)!.familyId!;
  };

  it('the newest decision on a cause holds', () => {
    const id = family();
    store.families.decide(id, 1, { kind: 'clear', cause: 'covered-target', text: 'free' });
    store.families.decide(id, 2, { kind: 'confirm', cause: 'replaced-element' });
    store.families.decide(id, 3, { kind: 'note', text: 'seen twice' });
    expect(store.families.verdict(id)).toMatchObject({
      confirmed: 'replaced-element',
      cleared: [{ cause: 'covered-target', reason: 'free' }],
      note: 'seen twice',
    });
    store.families.decide(id, 4, { kind: 'stand', cause: 'replaced-element' });
    expect(store.families.verdict(id).confirmed).toBeNull();
  });

  it('undo takes back one decision after the other, exactly', () => {
    const id = family();
    const states = [store.families.verdict(id)];
    states.push(store.families.decide(id, 1, { kind: 'confirm', cause: 'replaced-element' }));
    states.push(store.families.decide(id, 2, { kind: 'confirm', cause: 'early-action' }));
    states.push(store.families.decide(id, 3, { kind: 'clear', cause: 'early-action', text: 'no' }));
    for (let i = states.length - 2; i >= 0; i--) {
      store.families.undo(id);
      expect(store.families.verdict(id)).toEqual(states[i]);
    }
    expect(store.families.undo(id)).toBeUndefined();
  });

  it('a family is new in the run it was first seen in, and known in the next', () => {
    const first = store.runs.named('first', 1000);
    const second = store.runs.named('second', 5000);
    for (const [run, at] of [
      [first, 1100],
      [second, 5100],
    ] as const) {
      settle(attempt(run, 'a', 'failed', at), staleEvents(), 'failed', stale.message);
      attempt(run, 'a', 'passed', at + 10);
    }
    expect(familiesOfRun(store, store.runs.get(first)!)[0]).toMatchObject({
      since: 'new',
      tests: 1,
      attempts: [{ flaky: true }],
    });
    expect(familiesOfRun(store, store.runs.get(second)!)[0]).toMatchObject({
      since: 'known',
      runs: 2,
      leading: { cause: 'replaced-element' },
    });
  });
});

it('a family that tests’ own bodies now tell apart stays with the first, and its verdict with it', () => {
  const plain = 'timeout|find element||css=[data-ref]|“the reference”';
  const { families } = store;
  const before = families.of(plain, 't1', 'was', 1);
  families.decide(before, 2, { kind: 'confirm', cause: 'slow-response' });
  const [one, other] = ['0123456789a', 'b0123456789'].map((test) => `${plain} in ${test}`);
  expect(families.of(one!, 't1', 'is', 3)).toBe(before);
  const second = families.of(other!, 't2', 'is', 4);
  expect(second).not.toBe(before);
  // Asked again they are what they were.
  expect(families.of(other!, 't2', 'is', 5)).toBe(second);
  expect(families.of(one!, 't1', 'is', 6)).toBe(before);
  expect(families.verdict(before).confirmed).toBe('slow-response');
  // In a workspace that never knew it otherwise, each has the id that it has everywhere.
  expect(second).toBe(familyId(other!));
});

it('series a killed server left are stopped, not lost', () => {
  const drill = store.drills.add('back', 'x', null);
  const begun = {
    drillId: drill.id,
    runId: store.runs.named('t', 1, { kind: 'trials' }),
    engine: 'chromium',
    trials: 5,
    text: 'back',
    stressors: [],
    untilFails: false,
    detail: 'standard' as const,
    search: null,
    proof: null,
  };
  const series = store.drills.addSeries(begun);
  store.drills.setSeries(series.id, 'running');
  const search = store.drills.addSeries({ ...begun, search: { budget: { trials: 80, minutes: 5 } } });
  store.trials.begin(search.id, { number: 1, stressors: [{ kind: 'slow-line', ms: 5 }], place: 'chromium' });
  store.drills.stopUnfinished();
  store.trials.loseUnfinished();
  // A search goes on; only the trial that was being played is lost.
  expect(store.drills.unfinished().map(({ id }) => id)).toEqual([search.id]);
  expect(store.trials.of(search.id)).toMatchObject([{ verdict: 'lost', stressors: [{ kind: 'slow-line', ms: 5 }] }]);
  expect(store.drills.series(series.id)).toMatchObject({
    state: 'stopped',
    problem: expect.stringContaining('stopped') as string,
  });
});

it('events in which a text stands are written anew, of a thousand and of this attempt alone', async () => {
  const run = store.runs.named('r', 0);
  const [one, other] = [attempt(run, 'a', 'passed'), attempt(run, 'b', 'passed')];
  const lines = Array.from({ length: 1200 }, (_, i) => ({ ...line(i, i % 400 ? 'aboard' : 'code 4821'), id: `e${i}` }));
  for (const id of [one, other]) store.events.write(id, lines);
  await store.events.rewrite(one, ['4821'], (event) =>
    event.lane === 'console' ? { ...event, data: { ...event.data, text: 'masked' } } : event,
  );
  const texts = (id: string): string[] =>
    store.events.recorded(id).flatMap((event) => (event.lane === 'console' ? [event.data.text] : []));
  expect(texts(one).filter((text) => text === 'masked')).toHaveLength(3);
  expect(texts(one)).toHaveLength(1200);
  expect(texts(other)).not.toContain('masked');
});
