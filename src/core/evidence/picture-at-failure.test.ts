import { expect, it } from 'vitest';
import type { EvidenceEvent, ScreenEvent } from './event.ts';
import { pictureAtFailure } from './picture-at-failure.ts';
import { check, reads } from './samples.ts';

let count = 0;
const picture = (at: number, more: Partial<ScreenEvent> = {}, part = false): ScreenEvent => ({
  id: `s${++count}`,
  lane: 'screen',
  kind: 'frame',
  at,
  clock: 'browser',
  data: { blob: 'b', mime: 'image/jpeg', width: 1280, height: 800, scale: 1, ...(part ? { part } : {}) },
  ...more,
});
const at = (...events: EvidenceEvent[]): number | undefined => pictureAtFailure(events)?.at;

it('is the last one before the check that failed', () => {
  expect(at(picture(10), picture(90), reads(100, '2'), check(120, false, '3', '2'), picture(300))).toBe(90);
  expect(at(picture(10), check(50, true, '3', '3'), picture(90), check(120, false, '3', '2'))).toBe(90);
});

it('is the one taken right after the failure where there is none before it, but not long after', () => {
  expect(at(check(120, false, '3', '2'), picture(400, { kind: 'screenshot' }))).toBe(400);
  expect(at(check(120, false, '3', '2'), picture(4000, { kind: 'screenshot' }))).toBeUndefined();
});

it('is the last of all where nothing tells when it failed', () => {
  expect(at(picture(10), picture(90))).toBe(90);
});

it('is no video and no picture of a single element', () => {
  expect(at(picture(10, { kind: 'video' }), picture(20, {}, true))).toBeUndefined();
});
