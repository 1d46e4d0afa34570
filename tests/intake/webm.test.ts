import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readWebm, withoutWebmTexts } from '../../src/core/formats/webm.ts';
import { framesOf } from '../../src/server/ingest/delivered/frames.ts';
import { film, page } from './helpers.ts';

/** Real files, made by ffmpeg, whole and hurt. */
let whole: Buffer;
let folder: string;
const through = (bytes: Buffer, ...args: string[]): Buffer => {
  writeFileSync(join(folder, 'in.webm'), bytes);
  const done = spawnSync('ffmpeg', ['-y', '-v', 'error', '-i', join(folder, 'in.webm'), '-c', 'copy', ...args]);
  if (done.status !== 0) throw new Error(done.stderr.toString());
  return readFileSync(args.at(-1)!);
};
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'iskel-webm-'));
  whole = film([
    { bytes: await page('a', 'one'), ms: 600 },
    { bytes: await page('a', 'two'), ms: 600 },
    { bytes: await page('a', 'three'), ms: 800 },
  ]);
});
afterAll(() => rmSync(folder, { recursive: true }));

describe('WebM', () => {
  it('tells size, codec, duration and the time of every frame', () => {
    const video = readWebm(whole);
    expect(video).toMatchObject({ width: 480, height: 300, codec: 'V_VP8', durationTold: true });
    expect(video.durationMs).toBeGreaterThan(1900);
    expect(video.durationMs).toBeLessThan(2200);
    expect(video.frames).toHaveLength(Math.round(video.durationMs / 40));
    expect(video.frames[10]! - video.frames[9]!).toBeCloseTo(40, 0);
  });
  it('tells the duration also when a live recording left it out', () => {
    const live = through(whole, '-f', 'webm', '-live', '1', join(folder, 'live.webm'));
    const video = readWebm(live);
    expect(video.durationTold).toBe(false);
    expect(Math.abs(video.durationMs - readWebm(whole).durationMs)).toBeLessThanOrEqual(45);
    expect(video.frames.length).toBe(readWebm(whole).frames.length);
  });
  it('is read as far as it goes when it breaks off, and says so', () => {
    let last = Infinity;
    for (const share of [0.9, 0.6, 0.3]) {
      const video = readWebm(whole.subarray(0, Math.floor(whole.length * share)));
      expect(video.problem).toMatch(/breaks off after \d+ frames/);
      expect(video.frames.length).toBeLessThan(last);
      last = video.frames.length;
    }
    expect(() => readWebm(whole.subarray(0, 60))).toThrow(/no video/);
    expect(() => readWebm(Buffer.from('not a film'))).toThrow(/no WebM/);
  });
  it('cut or scrambled anywhere it never does more than throw in words', () => {
    for (let cut = 4; cut < whole.length; cut += 997) {
      const hurt = Buffer.from(whole.subarray(0, cut));
      hurt[cut >> 1] = 0xff;
      try {
        readWebm(hurt);
      } catch (error) {
        expect((error as Error).message).toMatch(/WebM|video/);
      }
      expect(withoutWebmTexts(hurt)).toHaveLength(hurt.length);
    }
  });
  it('loses its titles and tags and keeps every frame', async () => {
    const secret = 'harbour-gate-4711';
    const told = through(
      whole,
      '-metadata',
      `title=${secret}`,
      '-metadata',
      `comment=${secret}`,
      '-metadata:s:v:0',
      `title=${secret}`,
      join(folder, 'told.webm'),
    );
    expect(told.includes(secret)).toBe(true);
    const clean = Buffer.from(withoutWebmTexts(told));
    expect(clean.includes(secret)).toBe(false);
    expect(clean.length).toBe(told.length);
    writeFileSync(join(folder, 'clean.webm'), clean);
    expect(readWebm(clean).frames).toEqual(readWebm(told).frames);
    expect(await framesOf(join(folder, 'clean.webm'), readWebm(clean))).toHaveLength(readWebm(told).frames.length);
  });
});
