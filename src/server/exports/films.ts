import { createReadStream } from 'node:fs';
import { readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { background, trouble } from '../../core/background.ts';
import { Readable } from 'node:stream';
import type { Owner } from '../../browser/owner.ts';
import type { ScreenEvent } from '../../core/evidence/event.ts';
import { readPicture } from '../../core/formats/picture.ts';
import { windowSize } from '../../core/scaffold/at-screen.ts';
import { runFfmpeg } from '../ffmpeg.ts';
import type { Store } from '../store/store.ts';

/** Films that are made at once; each takes a processor. */
const mostAtOnce = 2;
let beingMade = 0;

const patienceMs = 120_000;
/** The last picture stays on show this long, ms. */
const lastMs = 1000;
const longestSide = 1920;
const rate = 25;

/** The pictures of the session, in time order, without those of single elements. */
export function filmPictures(store: Store, attempt: string): ScreenEvent[] {
  const all = store.events
    .ofLanes(attempt, ['screen'], 10_000)
    .filter((event): event is ScreenEvent => event.lane === 'screen' && event.kind !== 'video' && !event.data.part);
  // Where the browser's own pictures are, the test's screenshots would only repeat them a moment late.
  const frames = all.filter(({ kind }) => kind === 'frame');
  return frames.length ? frames : all;
}

/**
 * A session as a WebM film, made by ffmpeg from its pictures, each on show until the next. The work
 * happens in a folder of its own that is gone when the film has been handed over.
 * @throws Error in words when there are no pictures, or ffmpeg is not there or fails
 */
export async function filmOf(
  store: Store,
  owner: Owner,
  attempt: string,
): Promise<{ stream: ReadableStream; size: number; close: () => Promise<void> }> {
  const pictures = filmPictures(store, attempt);
  if (!pictures.length)
    throw new Error('no pictures were recorded in this attempt, so there is nothing to make a film of');
  if (beingMade >= mostAtOnce) throw new Error(`${mostAtOnce} films are being made already; ask again in a moment`);
  beingMade++;
  const { mark, folder, env } = owner.next();
  let open = true;
  const close = (): Promise<void> => {
    if (open) beingMade--;
    open = false;
    return owner.end(mark, folder);
  };
  try {
    const shown = await real(store, pictures);
    if (!shown.length) throw new Error('none of its pictures is one that is read: PNG, JPEG or WebP');
    const list = shown.flatMap((picture, i) => {
      const next = shown[i + 1];
      const forMs = Math.max(1000 / rate, next ? next.at - picture.at : lastMs);
      return [`file '${store.blobs.place(picture.data.blob)}'`, `duration ${(forMs / 1000).toFixed(4)}`];
    });
    // The demuxer gives the last picture its time only when it is named once more.
    list.push(list.at(-2)!);
    await writeFile(join(folder, 'pictures.txt'), `ffconcat version 1.0\n${list.join('\n')}\n`);
    const { width, height } = evenSize(shown[0]!);
    const film = join(folder, 'film.webm');
    const args = ['-v', 'error', '-nostdin', '-y', '-threads', '1', '-protocol_whitelist', 'file,crypto,data'];
    args.push('-format_whitelist', readable, '-f', 'concat', '-safe', '0', '-i', join(folder, 'pictures.txt'));
    args.push(
      '-vf',
      `scale=${width}:${height}:force_original_aspect_ratio=decrease,pad=${width}:${height}:(ow-iw)/2:(oh-ih)/2,fps=${rate}`,
    );
    args.push('-c:v', 'libvpx', '-deadline', 'realtime', '-cpu-used', '8', '-b:v', '2M', '-pix_fmt', 'yuv420p', film);
    const { missing, code, said } = await runFfmpeg(args, env, patienceMs);
    if (missing) throw new Error('ffmpeg is needed to make a film; install it and try again');
    if (code !== 0) throw new Error(`the film could not be made${said ? `: ${said}` : ''}`);
    const { size } = await stat(film);
    const file = createReadStream(film);
    file.once('close', () => background('tidying after a film', close()));
    file.on('error', (error) => trouble('reading a film', error, attempt));
    return { stream: Readable.toWeb(file) as ReadableStream, size, close };
  } catch (error) {
    await close();
    throw error;
  }
}

/** What ffmpeg may take a picture for: nothing that names other files. */
const readable = 'concat,image2,png_pipe,jpeg_pipe,webp_pipe';

/** Pictures by what their bytes say: whatever else was sent under that name is given to no other program. */
async function real(store: Store, pictures: readonly ScreenEvent[]): Promise<ScreenEvent[]> {
  const known = new Map<string, boolean>();
  for (const { data } of pictures)
    if (!known.has(data.blob)) known.set(data.blob, await isPicture(store.blobs.place(data.blob)));
  return pictures.filter(({ data }) => known.get(data.blob));
}

async function isPicture(path: string): Promise<boolean> {
  try {
    return readPicture(await readFile(path)) !== undefined;
  } catch {
    return false;
  }
}

/** The codec wants even sizes. */
function evenSize(picture: ScreenEvent): { width: number; height: number } {
  const { width, height } = windowSize(picture);
  const scale = Math.min(1, longestSide / Math.max(width, height));
  const even = (side: number): number => Math.max(2, Math.round((side * scale) / 2) * 2);
  return { width: even(width), height: even(height) };
}
