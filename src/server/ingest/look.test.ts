import sharp from 'sharp';
import { expect, it } from 'vitest';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { lookAtFailure } from './look.ts';

const shot: EvidenceEvent = {
  id: 's1',
  lane: 'screen',
  kind: 'screenshot',
  at: 50,
  clock: 'recorder',
  data: { blob: 'b', mime: 'image/png', width: 1280, height: 800, scale: 1 },
};
/** A page of one colour, with boxes of another on it. */
const drawn = (boxes: { left: number; top: number; width: number; height: number }[]): Promise<Buffer> =>
  sharp({ create: { width: 1280, height: 800, channels: 3, background: '#fff' } })
    .composite(
      boxes.map(({ left, top, width, height }) => ({
        input: { create: { width, height, channels: 3, background: '#123' } },
        left,
        top,
      })),
    )
    .png()
    .toBuffer();
const kinds = async (bytes: Buffer | Promise<Buffer>): Promise<string[] | undefined> =>
  (await lookAtFailure([shot], async () => bytes))?.findings.map(({ kind }) => kind);

it('finds a page with nothing on it, one that is still loading, and nothing on a page like any other', async () => {
  expect(await kinds(drawn([]))).toEqual(['blank']);
  expect(await kinds(drawn([{ left: 580, top: 320, width: 120, height: 90 }]))).toEqual(['loading']);
  expect(await kinds(drawn([{ left: 0, top: 0, width: 1280, height: 90 }]))).toEqual([]);
});

it('cannot tell where the picture cannot be read, is gone, or there is none', async () => {
  expect(await kinds(Buffer.from('no picture'))).toBeUndefined();
  const drawing = '<svg xmlns="http://www.w3.org/2000/svg" width="1280" height="800"/>';
  expect(await kinds(Buffer.from(drawing))).toBeUndefined();
  expect(await kinds(Promise.reject(new Error('gone')))).toBeUndefined();
  expect(await lookAtFailure([], async () => Buffer.alloc(0))).toBeUndefined();
});
