import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Analysis } from '../../core/analyse.ts';
import type { EvidenceFile } from '../../core/records.ts';
import { familiesOfRun } from '../api/run-families.ts';
import { questionOf } from './find.ts';
import { sheetOf } from './sheet.ts';
import { Store } from './store.ts';

/** What imported and streamed evidence needs of the store: counts kept with the run, words, files, deliveries taken back. */
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

const start = Date.UTC(2026, 10, 23, 10);
let count = 0;
function add(
  run: string,
  title: string,
  outcome: 'passed' | 'failed',
  more: { number?: number; at?: number; browser?: string; intakeId?: string } = {},
): string {
  const id = `a-${++count}`;
  store.attempts.add({
    id,
    runId: run,
    test: { suite: 'booking', title },
    number: more.number ?? 1,
    outcome,
    environment: { browser: more.browser ?? 'chromium', version: '156' },
    startedAt: more.at ?? start,
    durationMs: 100,
    message: '',
    stack: '',
    labels: { worker: '1', tags: ['smoke'] },
    analysisVersion: 1,
    intakeId: more.intakeId ?? 'i-1',
  });
  return id;
}
function fail(id: string, print: string): void {
  const analysis: Analysis = {
    failure: { kind: 'assertion', sentence: `it failed by ${print}`, libraryFrames: 0, message: '', stack: '' },
    family: { id: '', fingerprint: print },
    clues: [],
    suspects: [],
    undetermined: true,
    derived: [],
    labels: {},
    locators: [],
    complaints: [],
    risks: [],
  };
  store.together(() => store.attempts.settle(id, analysis, 1));
}

describe('the counts of a run', () => {
  it('are kept until an attempt of it changes, and then counted anew', () => {
    const run = store.runs.named('nightly', start);
    add(run, 'a', 'failed');
    add(run, 'a', 'passed', { number: 2, at: start + 500 });
    const kept = (): unknown => store.db.prepare('SELECT summary FROM runs WHERE id = ?').pluck().get(run);
    expect(store.runs.get(run)).toMatchObject({
      totals: { tests: 1, attempts: 2, flaky: 1 },
      from: start,
      until: start + 600,
      environments: 1,
    });
    expect(kept()).not.toBeNull();
    const second = add(run, 'b', 'passed');
    expect(kept()).toBeNull();
    expect(store.runs.get(run)!.totals).toMatchObject({ tests: 2, passed: 1 });
    store.attempts.outcome(second, 'failed', 'x', '');
    expect(store.runs.get(run)!.totals).toMatchObject({ tests: 2, failed: 1, passed: 0 });
    store.db.prepare('DELETE FROM attempts WHERE id = ?').run(second);
    expect(store.runs.get(run)!.totals.tests).toBe(1);
  });
  it('while a delivery is read are those of attempts, without families', () => {
    const run = store.runs.named('arriving', start);
    store.intakes.begin('i-1', start);
    store.intakes.of('i-1', run, true);
    add(run, 'a', 'failed');
    expect(store.runs.summary(run)).toMatchObject({
      totals: { attempts: 1, failed: 1 },
      recording: true,
      families: [],
    });
  });
  it('the same case given twice is one attempt', () => {
    const run = store.runs.named('twice', start);
    add(run, 'a', 'passed');
    count--;
    add(run, 'a', 'passed');
    expect(store.runs.get(run)!.totals.attempts).toBe(1);
  });
});

describe('families over runs', () => {
  it('are new, known, and returned after a run without them', () => {
    const runs = ['one', 'two', 'three', 'four'].map((name, i) => store.runs.named(name, start + i * 1000));
    const seen = (i: number, print: string): void =>
      fail(add(runs[i]!, 'a', 'failed', { at: start + i * 1000 }), print);
    seen(0, 'assertion||the desk was closed today');
    seen(1, 'assertion||the desk was closed today');
    seen(2, 'timeout|css=#a|');
    seen(3, 'assertion||the desk was closed today');
    const since = (i: number): string[] =>
      familiesOfRun(store, store.runs.get(runs[i]!)!).map((family) => family.since);
    expect([since(0), since(1), since(2), since(3)]).toEqual([['new'], ['known'], ['new'], ['returned']]);
  });
  it('take in near wordings, also after the store is opened again', () => {
    const run = store.runs.named('one', start);
    fail(add(run, 'a', 'failed'), 'assertion|x.ts:hold|the desk refused this booking of a seat today');
    store.close();
    store = new Store(home);
    fail(add(run, 'b', 'failed'), 'assertion|x.ts:hold|the desk refused that booking of a seat today');
    fail(add(run, 'c', 'failed'), 'assertion|y.ts:hold|the desk refused that booking of a seat today');
    expect(familiesOfRun(store, store.runs.get(run)!).map((family) => family.count)).toEqual([2, 1]);
  });
});

describe('words', () => {
  it('are found by attempt and column, the last one as it is typed', () => {
    const run = store.runs.named('one', start);
    const id = add(run, 'holds a seat on the evening sailing', 'failed');
    store.find.index(id, {
      message: 'fare of 384 lira',
      console: 'ledger closed',
      request: 'GET http://ferry.test/fares',
      step: '',
      note: '',
    });
    const found = (column: 'message' | 'console' | 'request', words: string): string[] =>
      store.find.attempts(column, questionOf(words)!, 5);
    expect(found('message', 'lira 384')).toEqual([id]);
    expect(found('console', 'led')).toEqual([id]);
    expect(found('request', 'ferry.test/fares')).toEqual([id]);
    expect(found('console', 'lira')).toEqual([]);
    store.find.index(id, { message: '', console: 'ledger open', request: '', step: '', note: '' });
    expect(found('message', 'lira')).toEqual([]);
    expect(store.find.tests(questionOf('evening seat')!, 5).map((test) => test.title)).toEqual([
      'holds a seat on the evening sailing',
    ]);
    expect(questionOf('  …  ')).toBeUndefined();
    expect(questionOf('a" OR b')).toBe('"a" AND "OR" AND "b"');
  });
});

describe('files and deliveries', () => {
  const file = (run: string, attempt: string | null): EvidenceFile => ({
    id: 'f-1',
    intakeId: 'i-1',
    runId: run,
    name: 'shot.png',
    kind: 'picture',
    blob: 'b'.repeat(64),
    size: 5,
    facts: { width: 10 },
    state: attempt ? 'placed' : 'waiting',
    attemptId: attempt,
    score: 0.95,
    reasons: ['x'],
    candidates: [],
    placedBy: 'evidence',
    offsetMs: 5,
    offsetWithin: null,
    offsetHow: 'y',
  });
  it('the same file is kept once, and read back as it was', () => {
    const run = store.runs.named('one', start);
    store.intakes.begin('i-1', start);
    const one = file(run, add(run, 'a', 'failed'));
    expect(store.files.add(one)).toBe(true);
    expect(store.files.add({ ...one, id: 'f-2' })).toBe(false);
    expect(store.files.get('f-1')).toEqual(one);
    expect(store.files.waiting(run)).toBe(0);
  });
  it('a delivery taken back puts back what it changed of others: outcomes, starts, lengths, the run', () => {
    const run = store.runs.named('mixed', start);
    const recorded = store.attempts.begin({
      runId: run,
      test: { suite: '', title: 'recorded' },
      environment: { browser: 'b', version: '1' },
      startedAt: start,
    });
    store.attempts.end(recorded, 500);
    const before = { attempt: store.attempts.get(recorded), run: store.runs.get(run)?.startedAt };
    const line = (id: string) =>
      ({
        id,
        lane: 'console',
        kind: 'line',
        at: 1,
        clock: 'report',
        data: { level: 'info', text: id, source: 'test' },
      }) as const;
    store.events.write(recorded, [line('out0')]);
    store.intakes.begin('i-1', start);
    store.intakes.of('i-1', run, false);
    store.intakes.touches('i-1', recorded);
    store.intakes.adds('i-1', recorded, [line('out0'), line('out1')]);
    store.events.write(recorded, [line('out0'), line('out1')]);
    store.attempts.outcome(recorded, 'failed', 'late', 'at x');
    store.attempts.startedAt(recorded, start - 60_000);
    store.attempts.lasted(recorded, 9000);
    store.runs.beganWithItsFirst(run);
    expect(store.runs.get(run)?.startedAt).toBe(start - 60_000);
    // Broken off in the middle, it goes on where it was.
    const steps = store.intakes.undoing('i-1');
    steps.next();
    expect(store.intakes.undo('i-1')).toEqual([recorded]);
    expect({ attempt: store.attempts.get(recorded), run: store.runs.get(run)?.startedAt }).toEqual(before);
    expect(store.events.recorded(recorded).map(({ id }) => id)).toEqual(['out0']);
    expect(store.intakes.unfinished()).toEqual([]);
  });
  it('a delivery taken back leaves what others brought', () => {
    const run = store.runs.named('mixed', start);
    const other = add(run, 'recorded', 'passed', { intakeId: 'i-0' });
    store.intakes.begin('i-1', start);
    store.intakes.of('i-1', run, true);
    const mine = add(run, 'mine', 'failed');
    store.files.add(file(run, other));
    store.events.write(other, [
      { id: 'f-1-0', lane: 'note', kind: 'note', at: 1, clock: 'file:f-1', data: { label: 'x' } },
    ]);
    store.intakes.undo('i-1');
    expect(store.attempts.get(mine)).toBeUndefined();
    expect(store.attempts.get(other)).toBeDefined();
    expect(store.events.recorded(other)).toEqual([]);
    expect(store.files.get('f-1')).toBeUndefined();
    expect(store.runs.get(run)).toBeDefined();
    expect(store.intakes.unfinished()).toEqual([]);
  });
  it('the sheet says each text once', () => {
    const run = store.runs.named('sheet', start);
    add(run, 'a', 'passed');
    add(run, 'a', 'passed', { browser: 'firefox' });
    fail(add(run, 'b', 'failed'), 'timeout|css=#a|');
    const sheet = sheetOf(store.db, run);
    expect(sheet.tests.map(({ title, tags }) => [title, tags])).toEqual(
      expect.arrayContaining([
        ['a', ['smoke']],
        ['b', ['smoke']],
      ]),
    );
    expect(sheet).toMatchObject({
      environments: expect.arrayContaining(['chromium 156', 'firefox 156']) as string[],
      workers: ['1'],
    });
    expect(sheet.attempts).toHaveLength(3);
    expect(sheet.families).toHaveLength(1);
  });
});
