import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readMp4, withoutMp4Texts } from '../../src/core/formats/mp4.ts';
import { readWebm } from '../../src/core/formats/webm.ts';
import { framesOf } from '../../src/server/ingest/delivered/frames.ts';
import { asMp4, film, openDesk, page } from './helpers.ts';

/** Real files, made by ffmpeg from one film: with an index at the end, at the front, in fragments, as QuickTime. */
let webm: Buffer;
let folder: string;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'iskel-mp4-'));
  webm = film([
    { bytes: await page('a', 'one'), ms: 600 },
    { bytes: await page('a', 'two'), ms: 600 },
    { bytes: await page('a', 'three'), ms: 800 },
  ]);
});
afterAll(() => rmSync(folder, { recursive: true }));

const ways = {
  'index at the end': [],
  'index at the front': ['-movflags', '+faststart'],
  'in fragments': ['-movflags', 'frag_keyframe+empty_moov'],
  'in fragments with their own base': [
    '-movflags',
    'frag_keyframe+empty_moov+default_base_moof',
    '-frag_duration',
    '200000',
  ],
  QuickTime: ['-f', 'mov'],
};

describe('MP4', () => {
  it.each(Object.entries(ways))('%s tells size, duration and the time of every frame', async (_name, flags) => {
    const bytes = asMp4(webm, flags);
    const [video, same] = [readMp4(bytes), readWebm(webm)];
    expect(video).toMatchObject({ width: 480, height: 300, codec: 'avc1' });
    expect(video.problem).toBeUndefined();
    expect(Math.abs(video.durationMs - same.durationMs)).toBeLessThan(90);
    expect(video.frames).toHaveLength(same.frames.length);
    const start = video.frames[0]! - same.frames[0]!;
    expect(Math.abs(start)).toBeLessThan(90);
    video.frames.forEach((at, i) => expect(Math.abs(at - start - same.frames[i]!)).toBeLessThan(2));
    const path = join(folder, 'film.mp4');
    writeFileSync(path, bytes);
    expect(await framesOf(path, video, process.env, 'video/mp4')).toHaveLength(video.frames.length);
  });

  it('loses the texts it carries, and plays as before', async () => {
    const bytes = asMp4(webm);
    expect(bytes.includes('Deniz')).toBe(true);
    const clean = Buffer.from(withoutMp4Texts(bytes));
    expect(clean.includes('Deniz')).toBe(false);
    expect(clean).toHaveLength(bytes.length);
    expect(readMp4(clean).frames).toEqual(readMp4(bytes).frames);
    const path = join(folder, 'clean.mp4');
    writeFileSync(path, clean);
    expect((await framesOf(path, readMp4(clean), process.env, 'video/mp4')).length).toBeGreaterThan(10);
  });

  it('that was cut off says so; without its index it says why, and what to do', () => {
    const fragments = asMp4(webm, ways['in fragments with their own base']);
    expect(readMp4(fragments.subarray(0, Math.floor(fragments.length * 0.7))).problem).toMatch(
      /breaks off after \d+ frames/,
    );
    const whole = asMp4(webm);
    expect(() => readMp4(whole.subarray(0, Math.floor(whole.length / 2)))).toThrow(
      /no index of its frames.*Record in fragments/,
    );
  });

  it('cut or scrambled anywhere it never does more than throw in words', () => {
    for (const flags of [ways['index at the front'], ways['in fragments']]) {
      const whole = asMp4(webm, flags);
      for (let cut = 12; cut < whole.length; cut += 311) {
        const hurt = Buffer.from(whole.subarray(0, cut));
        hurt[cut >> 1] = 0xff;
        try {
          expect(readMp4(hurt).frames.length).toBeGreaterThan(0);
          withoutMp4Texts(hurt);
        } catch (error) {
          expect((error as Error).message).toMatch(/no MP4|no video|no index|no frame/);
        }
      }
    }
  });

  it('finds its attempt as a WebM does', async () => {
    const desk = openDesk();
    const begin = Date.UTC(2026, 10, 23, 9);
    const length = readWebm(webm).durationMs;
    const report = `<testsuite name="counter"><testcase name="sells a ticket to Ada Bay" time="${(length + 300) / 1000}" timestamp="${new Date(begin).toISOString()}"/><testcase name="prints the pass" time="4" timestamp="${new Date(begin + 4000).toISOString()}"/></testsuite>`;
    const result = await desk.take({
      'report.xml': report,
      '7c1e09.mp4': { bytes: asMp4(webm), at: begin + length + 200 },
    });
    expect(result).toMatchObject({ attached: 1, unmatched: [], problems: [] });
    const [file] = desk.store.files.ofRun(result.runId!);
    expect(file).toMatchObject({ kind: 'video', facts: { mime: 'video/mp4', told: 'written' } });
    expect(desk.store.attempts.get(file!.attemptId!)!.test.title).toBe('sells a ticket to Ada Bay');
    desk.close();
  });
});
