import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createHash } from 'node:crypto';
import sharp from 'sharp';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { step } from '../../core/evidence/samples.ts';
import { seeded } from '../../core/stats/seeded.ts';
import { writePack } from '../../core/formats/pack.ts';
import type { AnalysisJobs } from '../jobs/analysis.ts';
import { Store } from '../store/store.ts';
import { filmFrame } from '../film-frame.ts';
import { writeHandOver, type HandOverOrder } from './hand-over.ts';
import { importPack } from './packs.ts';

let home: string;
let store: Store;
beforeEach(() => {
  home = mkdtempSync(join(tmpdir(), 'iskel-hand-over-'));
  store = new Store(home);
});
afterEach(() => {
  store.close();
  rmSync(home, { recursive: true });
});

const order: HandOverOrder = {
  as: 'html',
  without: [],
  blurred: [],
  base: 'http://iskel.example',
  contrast: null,
  advice: [],
};
const hashOf = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

async function attemptWith(
  pictures: readonly Buffer[],
  width: number,
  height: number,
  mime = 'image/png',
): Promise<string> {
  const film = mime.startsWith('video');
  const shown = pictures.map((bytes, i): EvidenceEvent => ({
    id: `p${i}`,
    lane: 'screen',
    kind: film ? 'video' : 'frame',
    at: 4 + i,
    clock: 'browser',
    data: { blob: hashOf(bytes), mime, width, height, scale: 1, ...(film ? { durationMs: 2000 } : {}) },
  }));
  const failed = step(20, 22, {
    action: 'press',
    label: 'Press on “Hold seat”',
    error: { code: 'x', message: 'gone' },
  });
  return importPack(
    store,
    { settle: () => undefined } as unknown as AnalysisJobs,
    writePack({
      attempt: {
        run: { name: 'nightly-9', startedAt: 1000 },
        test: { suite: 'holds', title: 'holds a seat' },
        number: 1,
        outcome: 'failed',
        environment: { browser: 'chromium', version: '156' },
        startedAt: 2000,
        durationMs: 50,
        message: 'seat gone',
        stack: '',
        labels: {},
      },
      events: [...shown, failed],
      blobs: new Map(pictures.map((bytes) => [hashOf(bytes), { bytes: new Uint8Array(bytes), mime }])),
    }),
  );
}
/** A picture that no format makes small. */
async function noise(width: number, height: number, seed: number): Promise<Buffer> {
  const random = seeded(seed);
  const raw = Buffer.alloc(width * height * 3);
  for (let i = 0; i + 4 <= raw.length; i += 4) raw.writeUInt32LE((random() * 2 ** 32) >>> 0, i);
  return sharp(raw, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toBuffer();
}
const picturesIn = (page: string): Buffer[] =>
  [...page.matchAll(/src="data:image\/jpeg;base64,([^"]+)"/g)].map(([, text]) => Buffer.from(text!, 'base64'));

it('stays under 3 MB whatever its pictures hold', async () => {
  const id = await attemptWith([await noise(1300, 3000, 1), await noise(1300, 3000, 2)], 1300, 3000);
  const page = (await writeHandOver(store, id, '1', order))!;
  expect(picturesIn(page)).toHaveLength(2);
  expect(page.length).toBeLessThan(3_000_000);
}, 60_000);

it('has nothing of what was covered, and the rest as it was', async () => {
  // Black and white stripes: whoever can still tell them apart could read letters.
  const stripes = Buffer.alloc(400 * 200 * 3, 255);
  for (let y = 0; y < 200; y++)
    for (let x = 0; x < 400; x++) if (x % 4 < 2) stripes.fill(0, (y * 400 + x) * 3, (y * 400 + x) * 3 + 3);
  const picture = await sharp(stripes, { raw: { width: 400, height: 200, channels: 3 } })
    .png()
    .toBuffer();
  const id = await attemptWith([picture], 400, 200);
  const page = (await writeHandOver(store, id, '1', {
    ...order,
    blurred: [{ picture: 0, x: 0, y: 0, width: 0.5, height: 1 }],
  }))!;
  const [shown] = picturesIn(page);
  const row = await sharp(shown).greyscale().extract({ left: 0, top: 100, width: 400, height: 1 }).raw().toBuffer();
  const spread = (from: number, until: number): number => {
    const part = [...row.subarray(from, until)];
    return Math.max(...part) - Math.min(...part);
  };
  expect(spread(4, 190)).toBeLessThan(40);
  expect(spread(210, 396)).toBeGreaterThan(150);
  expect(page).not.toContain(picture.toString('base64').slice(0, 60));
});

it('says in words when a picture cannot be shown, and that there is no such attempt', async () => {
  const id = await attemptWith([Buffer.from('no picture at all')], 8, 6);
  const page = (await writeHandOver(store, id, '1', order))!;
  expect(page).toContain('its picture cannot be shown');
  expect(page).toContain('seat gone');
  expect(await writeHandOver(store, 'a-none', '1', order)).toBeUndefined();
});

describe('an attempt that has a video only', () => {
  // Red for a second, then blue.
  const film = (ending: 'webm' | 'mp4'): Buffer => {
    const path = join(home, `film.${ending}`);
    const codec = ending === 'mp4' ? ['-c:v', 'mpeg4'] : ['-c:v', 'libvpx', '-deadline', 'realtime'];
    const colour = (name: string): string[] => ['-f', 'lavfi', '-i', `color=c=${name}:s=64x48:d=1:r=10`];
    const join2 = ['-filter_complex', '[0][1]concat=n=2'];
    const made = spawnSync('ffmpeg', ['-v', 'error', ...colour('red'), ...colour('blue'), ...join2, ...codec, path]);
    expect(String(made.stderr)).toBe('');
    return readFileSync(path);
  };
  const isBlue = async (picture: Buffer | undefined): Promise<boolean> => {
    const { channels } = await sharp(picture).stats();
    return channels[2]!.mean > channels[0]!.mean;
  };

  it.each(['webm', 'mp4'] as const)('%s: is handed over with what the video shows', async (ending) => {
    const bytes = film(ending);
    const mime = `video/${ending}` as const;
    const path = join(home, `film.${ending}`);
    const at = (ms: number): Promise<boolean> => filmFrame(path, ms, mime, process.env).then(isBlue);
    expect([await at(-10), await at(400), await at(1500)]).toEqual([false, false, true]);
    // Past its end it shows what it showed last.
    expect(await at(60_000)).toBe(true);
    const id = await attemptWith([bytes], 64, 48, mime);
    const page = (await writeHandOver(store, id, '1', order))!;
    expect(page).toContain('The end of the video');
    const [shown] = picturesIn(page);
    expect(await isBlue(shown)).toBe(true);
    writeFileSync(path, bytes.subarray(0, 40));
    expect(await filmFrame(path, 5, mime, process.env)).toBeUndefined();
  });
});
