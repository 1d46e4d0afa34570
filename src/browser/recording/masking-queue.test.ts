import { expect, it } from 'vitest';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { createMasker } from '../../core/evidence/masking.ts';
import { MaskingQueue } from './masking-queue.ts';

const script = (id: string, at: number, text: string): EvidenceEvent =>
  ({
    id,
    lane: 'step',
    kind: 'command',
    at,
    clock: 'r',
    data: { command: 'execute script', action: 'script', label: 'x', arguments: [text] },
  }) as EvidenceEvent;
const line = (id: string, at: number, text: string): EvidenceEvent =>
  ({ id, lane: 'console', kind: 'line', at, clock: 'b', data: { level: 'info', text } }) as EvidenceEvent;

it('holds what a script was given until it is known whether it reached a password field', () => {
  const masker = createMasker();
  const queue = new MaskingQueue(masker, () => false);
  queue.push(script('a', 100, 'Rihtim-4821'));
  queue.push(line('b', 110, 'says nothing'));
  expect(queue.take(200).map(({ id }) => id)).toEqual(['b']);
  masker.learn(['Rihtim-4821']);
  expect(JSON.stringify(queue.take(800))).not.toContain('4821');
  expect(queue.waiting).toBe(false);
});

it('holds everything that may repeat it where there is such a field, and lets all go at the end', () => {
  const queue = new MaskingQueue(createMasker(), () => true);
  queue.push(line('a', 100, 'x'));
  expect(queue.take(300)).toEqual([]);
  expect(queue.take(Infinity).map(({ id }) => id)).toEqual(['a']);
});

it('an event that cannot be masked costs itself only, and is counted', () => {
  const broken = { ...createMasker(), value: <T>(one: T): T => one };
  const queue = new MaskingQueue(
    {
      ...broken,
      value: <T>(one: T): T => {
        if ((one as { id: string }).id === 'a') throw new RangeError('too long');
        return one;
      },
    },
    () => false,
  );
  queue.push(line('a', 1, 'x'));
  queue.push(line('b', 2, 'y'));
  expect(queue.take(Infinity).map(({ id }) => id)).toEqual(['b']);
  expect(queue.leftOut()).toEqual(['1 events could not be masked and were left out']);
});
