import { describe, expect, it } from 'vitest';
import { line } from '../../../core/evidence/samples.ts';
import { clockOf, firstTiming, materialise } from './materialise.ts';

const attempt = {
  startedAt: 1_000_000,
  durationMs: 5000,
  outcome: 'failed' as const,
  environment: { browser: 'x', version: '1', width: 640, height: 400, key: 'x' },
};

describe('where a file stands on its attempt’s clock', () => {
  it.each([
    [
      'a video that says when it was written',
      { kind: 'video', facts: { from: 1_000_300, durationMs: 4000 } },
      300,
      1000,
    ],
    ['a video that says nothing ends with the attempt', { kind: 'video', facts: { durationMs: 4000 } }, 1000, null],
    ['a picture by its file’s time', { kind: 'picture', facts: { from: 1_002_000 } }, 2000, 500],
    ['a picture of another day is of the end', { kind: 'picture', facts: { from: 9_000_000 } }, 5000, null],
    ['a picture without a time is of the end', { kind: 'picture', facts: {} }, 5000, null],
    ['cues begin with the attempt', { kind: 'cues', facts: {} }, 0, null],
    ['a log by its own times', { kind: 'log', facts: {} }, 0, 100],
  ] as const)('%s', (_name, file, offsetMs, within) => {
    expect(firstTiming(file, attempt)).toMatchObject({ offsetMs, within });
  });
});

describe('the events of a placed file', () => {
  it('a picture is a screenshot at its time, scaled to the window', () => {
    const [event] = materialise(
      { id: 'f1', kind: 'picture', blob: 'b', facts: { mime: 'image/png', width: 1280, height: 800 } },
      [],
      attempt,
      { offsetMs: 250 },
    );
    expect(event).toMatchObject({
      lane: 'screen',
      kind: 'screenshot',
      at: 250,
      clock: clockOf('f1'),
      data: { scale: 2 },
    });
  });
  it('a video lasts from its start to its end', () => {
    const [event] = materialise({ id: 'f2', kind: 'video', blob: 'b', facts: { durationMs: 3000 } }, [], attempt, {
      offsetMs: -200,
    });
    expect(event).toMatchObject({ kind: 'video', at: -200, until: 2800 });
  });
  it('lines with the time of day are laid against the attempt’s start, and moved by its offset', () => {
    const events = [{ ...line(1_000_400, 'late'), id: 'l0' }];
    const [event] = materialise({ id: 'f3', kind: 'log', blob: 'b', facts: {} }, events, attempt, { offsetMs: 50 });
    expect(event).toMatchObject({ id: 'f3-l0', at: 450, clock: 'file:f3' });
  });
});
