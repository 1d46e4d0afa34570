import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import type { IntakeResult } from '../../src/core/records.ts';
import { Intake, newIntakeId } from '../../src/server/ingest/delivered/intake.ts';
import type { IntakeFields } from '../../src/server/ingest/delivered/report-attempts.ts';
import { fromBytes } from '../../src/server/ingest/delivered/source.ts';
import { Store } from '../../src/server/store/store.ts';

/** A data folder with its store, for an intake without a server around it. */
export interface Desk {
  home: string;
  store: Store;
  take(
    files: Record<string, Buffer | string | { bytes: Buffer; at: number }>,
    fields?: IntakeFields,
  ): Promise<IntakeResult>;
  close(): void;
}

export function openDesk(): Desk {
  // In a folder of its own, so that what lies beside it is nobody else's.
  const parent = mkdtempSync(join(tmpdir(), 'iskel-desk-'));
  const home = join(parent, 'data');
  const store = new Store(home);
  return {
    home,
    store,
    take: (files, fields = {}) =>
      new Intake(newIntakeId(), { store, env: process.env, progress: () => undefined }).run(
        Object.entries(files).map(([name, content]) => {
          if (typeof content === 'string') return fromBytes(name, Buffer.from(content));
          return Buffer.isBuffer(content) ? fromBytes(name, content) : fromBytes(name, content.bytes, content.at);
        }),
        fields,
      ),
    close: () => {
      store.close();
      rmSync(parent, { recursive: true, force: true });
    },
  };
}

/** A page as a picture: a heading, and lines of which each moment shows others. */
export function page(title: string, moment: string, width = 640, height = 400): Promise<Buffer> {
  let hash = 0;
  for (const letter of `${title}${moment}`) hash = (Math.imul(hash, 31) + letter.charCodeAt(0)) >>> 0;
  const blocks = Array.from({ length: 6 }, (_, i) => {
    const shade = (hash >>> (i * 4)) & 15;
    return `<rect x="${30 + (i % 3) * 200}" y="${120 + Math.floor(i / 3) * 130}" width="${80 + shade * 6}" height="${60 + (shade % 5) * 12}" fill="rgb(${shade * 14},${90 + shade * 5},${200 - shade * 9})"/>`;
  });
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="640" height="400"><rect width="640" height="400" fill="#f3f0e8"/><text x="30" y="60" font-size="34" font-family="sans-serif">${title}</text><text x="30" y="96" font-size="22">${moment}</text>${blocks.join('')}</svg>`;
  return sharp(Buffer.from(svg)).resize(width, height, { fit: 'fill' }).png().toBuffer();
}

/** Pictures with the ms each is on show, as a WebM. */
export function film(shots: readonly { bytes: Buffer; ms: number }[], rate = 25): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'iskel-film-'));
  const list = shots.map(({ bytes, ms }, i) => {
    writeFileSync(join(folder, `${i}.png`), bytes);
    return `file '${join(folder, `${i}.png`)}'\nduration ${ms / 1000}`;
  });
  // The last picture is named once more, since its duration counts only then.
  writeFileSync(join(folder, 'list.txt'), [...list, `file '${join(folder, `${shots.length - 1}.png`)}'`].join('\n'));
  const out = join(folder, 'out.webm');
  const done = spawnSync('ffmpeg', [
    '-v',
    'error',
    '-f',
    'concat',
    '-safe',
    '0',
    '-i',
    join(folder, 'list.txt'),
    '-vf',
    `fps=${rate},scale=480:-2,format=yuv420p`,
    '-c:v',
    'libvpx',
    '-b:v',
    '600k',
    '-deadline',
    'realtime',
    '-cpu-used',
    '8',
    out,
  ]);
  if (done.status !== 0) throw new Error(done.stderr.toString());
  const bytes = readFileSync(out);
  rmSync(folder, { recursive: true });
  return bytes;
}

/** A film as MP4, whole or in fragments. */
export function asMp4(webm: Buffer, flags: readonly string[] = []): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'iskel-film-'));
  const [from, to] = [join(folder, 'in.webm'), join(folder, 'out.mp4')];
  writeFileSync(from, webm);
  const coded = [
    '-c:v',
    'libx264',
    '-preset',
    'ultrafast',
    '-bf',
    '2',
    '-pix_fmt',
    'yuv420p',
    '-fps_mode',
    'passthrough',
  ];
  const done = spawnSync('ffmpeg', ['-v', 'error', '-i', from, ...coded, ...flags, '-metadata', 'title=Deniz', to]);
  if (done.status !== 0) throw new Error(done.stderr.toString());
  const bytes = readFileSync(to);
  rmSync(folder, { recursive: true });
  return bytes;
}

/** Draws that repeat themselves from their seed. */
export function drawer(seed: number): (most: number) => number {
  let state = seed;
  return (most) => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return (state / 4_294_967_296) * most;
  };
}
