import sharp from 'sharp';
import type { VideoMime } from '../../../core/formats/video.ts';
import type { VideoStructure } from '../../../core/formats/video-structure.ts';
import type { Shot } from '../../../core/vision/align.ts';
import { thumbHeight, thumbSize, thumbWidth, type Thumb } from '../../../core/vision/thumb.ts';
import { runFfmpeg } from '../../ffmpeg.ts';
import { longestSide } from '../../../core/formats/picture.ts';

/** Most frames that are looked at of one video; longer ones are looked at less densely. */
const mostFrames = 6000;
const patienceMs = 60_000;

/** A picture as a thumb. @throws Error when it cannot be decoded */
export async function thumbOf(bytes: Buffer): Promise<Thumb> {
  const raw = await sharp(bytes, { limitInputPixels: longestSide * longestSide, failOn: 'truncated' })
    .flatten({ background: '#fff' })
    .resize(thumbWidth, thumbHeight, { fit: 'fill', kernel: 'linear' })
    .greyscale()
    .raw()
    .toBuffer();
  return new Uint8Array(raw.buffer, raw.byteOffset, thumbSize);
}

/**
 * The frames of a video as thumbs at their times on the video's clock, decoded by ffmpeg; its times
 * come from the file's own structure. Empty when ffmpeg is not there.
 * @param env with the mark by which the process is ended with its server
 * @throws Error in words when the file cannot be decoded
 */
export async function framesOf(
  path: string,
  video: VideoStructure,
  env: NodeJS.ProcessEnv = process.env,
  mime: VideoMime = 'video/webm',
): Promise<Shot[]> {
  const every = Math.max(1, Math.ceil(video.frames.length / mostFrames));
  const filter = `${every > 1 ? `select=not(mod(n\\,${every})),` : ''}scale=${thumbWidth}:${thumbHeight}:flags=area,format=gray`;
  const args = [
    '-v',
    'error',
    '-nostdin',
    '-threads',
    '1',
    '-protocol_whitelist',
    'file',
    '-f',
    mime === 'video/mp4' ? 'mov' : 'matroska',
    '-i',
    path,
    '-an',
    '-vf',
    filter,
    '-fps_mode',
    'passthrough',
    '-f',
    'rawvideo',
    '-',
  ];
  const thumbs: Thumb[] = [];
  let rest: Buffer = Buffer.alloc(0);
  const { missing, said } = await runFfmpeg(args, env, patienceMs, (chunk, stop) => {
    rest = rest.length ? Buffer.concat([rest, chunk]) : chunk;
    let at = 0;
    for (; at + thumbSize <= rest.length; at += thumbSize)
      thumbs.push(new Uint8Array(rest.subarray(at, at + thumbSize)));
    rest = rest.subarray(at);
    if (thumbs.length > mostFrames + 10) stop();
  });
  if (missing) return [];
  if (!thumbs.length)
    throw new Error(`its frames could not be decoded${said ? `: ${said.replaceAll(path, 'the video')}` : ''}`);
  const times = video.frames.filter((_, i) => i % every === 0);
  return thumbs.slice(0, Math.max(times.length, 1)).map((thumb, i) => ({ at: times[i] ?? 0, thumb }));
}
