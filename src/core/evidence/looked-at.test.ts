import { describe, expect, it } from 'vitest';
import type { EvidenceEvent } from './event.ts';
import { lookedAt } from './looked-at.ts';
import { prepare } from './prepare.ts';
import { css, element, facts, reads, step, windowEvent } from './samples.ts';

/** Where the last step looked. */
const where = (...events: EvidenceEvent[]): string | undefined => {
  const evidence = prepare(events, facts('failed'));
  return lookedAt(evidence, evidence.steps.at(-1)!);
};
const opened = (at: number, context: string): EvidenceEvent => windowEvent(at, 'opened', { context });
const went = (at: number, action: 'window' | 'frame', label = `Go to ${action}`): EvidenceEvent =>
  step(at, at + 5, { action, label });

describe('where a command looked', () => {
  it('is what it tells itself, or the first window there was', () => {
    expect(where(opened(0, 'one'), reads(50, 'x', '#a', { context: 'two' }))).toBe('two');
    expect(where(opened(0, 'one'), opened(20, 'two'), reads(50, 'x'))).toBe('one');
    expect(where(reads(50, 'x'))).toBeUndefined();
  });

  it('is the window the test had gone to last', () => {
    const both = [opened(0, 'one'), opened(20, 'two')];
    const chose = (at: number, context: string): EvidenceEvent[] => [
      went(at, 'window'),
      windowEvent(at + 5, 'looked-at', { context }),
    ];
    expect(where(...both, ...chose(30, 'two'), reads(50, 'x'))).toBe('two');
    expect(where(...both, ...chose(30, 'two'), ...chose(40, 'one'), reads(50, 'x'))).toBe('one');
    expect(where(...both, reads(25, 'x'), ...chose(30, 'two').slice(1))).toBe('one');
  });

  it('is a frame known by what was found in it, or one nobody knows', () => {
    const inFrame = element(10, 'appeared', 'css=#card', { node: 3 }, { context: 'frame' });
    const found = step(40, 45, { action: 'find', command: 'find element', locator: css('#card') });
    expect(where(opened(0, 'one'), inFrame, went(30, 'frame'), found, reads(50, 'x'))).toBe('frame');
    expect(where(opened(0, 'one'), inFrame, went(30, 'frame'), reads(50, 'x'))).toBe('a frame');
    expect(where(opened(0, 'one'), went(30, 'frame'), went(40, 'frame', 'Go out of the frame'), reads(50, 'x'))).toBe(
      'one',
    );
  });
});
