import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readStored } from '../evidence/streamed.ts';
import { readPackedAttempt } from './packed-attempt.ts';

const whole = {
  run: { name: 'nightly', startedAt: 1_790_000_000_000 },
  test: { suite: 'booking', title: 'holds a seat' },
  outcome: 'failed',
  environment: { browser: 'chromium', version: '156' },
  startedAt: 1_790_000_000_000,
  durationMs: 10,
  message: 'm',
  stack: '',
  labels: { tags: ['smoke'], zone: 180 },
};

describe('what a pack says of its attempt', () => {
  it('is read as it is', () => expect(readPackedAttempt(whole)).toEqual(whole));
  it.each([
    ['startedAt', { startedAt: 1e300 }],
    ['startedAt', { startedAt: 'soon' }],
    ['startedAt', { startedAt: -1e15 }],
    ['run.startedAt', { run: { name: 'x', startedAt: 1e300 } }],
    ['durationMs', { durationMs: 1e300 }],
    ['durationMs', { durationMs: -7 }],
    ['number', { number: -5e9 }],
    ['number', { number: 1.5 }],
    ['environment', { environment: null }],
    ['environment.browser', { environment: { browser: { a: 1 } } }],
    ['environment.width', { environment: { browser: 'x', width: 'w' } }],
    ['test.suite', { test: { suite: 5, title: 'x' } }],
    ['outcome', { outcome: 'splendid' }],
    ['message', { message: { toString: 1 } }],
  ])('is refused by name where %s makes no sense', (name, wrong) => {
    expect(() => readPackedAttempt({ ...whole, ...wrong })).toThrow(`“${name}”`);
  });
  it('loses labels that are of another kind than ours', () => {
    const labels = { tags: 'x', told: { by: 5, was: null, recording: '../../x' }, labels: 7, zone: {}, shard: 3 };
    expect(readPackedAttempt({ ...whole, labels }).labels).toEqual({});
  });
  it('whatever stands in it, is read or refused in words', () => {
    const parts = fc.record({
      labels: fc.jsonValue(),
      environment: fc.jsonValue(),
      run: fc.jsonValue(),
      number: fc.jsonValue(),
    });
    fc.assert(
      fc.property(
        parts.map((some) => ({ ...whole, ...some })),
        (raw) => {
          try {
            readPackedAttempt(raw);
          } catch (error) {
            expect((error as Error).message).toMatch(/^pack\.json/);
          }
        },
      ),
    );
    fc.assert(fc.property(fc.jsonValue(), (raw) => void expect(() => readPackedAttempt(raw)).toThrow()));
  });
});

describe('an event of a pack', () => {
  const step = {
    id: 'e',
    lane: 'step',
    kind: 'command',
    at: 1,
    clock: 'r',
    data: { command: 'get title', label: 'x' },
  };
  it('of our own making is read', () => {
    expect(readStored({ ...step, lane: 'page', kind: 'structure', data: { blob: 'a' } }, 0)).toMatchObject({
      kind: 'structure',
    });
  });
  it.each([
    { at: 1e300 },
    { kind: '__proto__' },
    { lane: 'console', kind: 'line', data: {} },
    { lane: 'network', kind: 'exchange', data: {} },
    { lane: 'element', kind: 'changed', data: {} },
    { lane: 'screen', kind: 'frame', data: { blob: 5 } },
    { data: { command: '__proto__', label: 5 } },
    { lane: 'step', kind: 'structure' },
  ])('that makes no sense is refused: %j', (wrong) => expect(() => readStored({ ...step, ...wrong }, 0)).toThrow());
});
