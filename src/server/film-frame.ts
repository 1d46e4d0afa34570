import type { VideoMime } from '../core/formats/video.ts';
import { runFfmpeg } from './ffmpeg.ts';

const patienceMs = 20_000;
/** A picture larger than this is no picture of a window. */
const mostBytes = 48 * 1024 * 1024;

/**
 * What a video shows at a time on its own clock, as PNG; decoded by ffmpeg. The last that it shows, where it has ended by then.
 * @param env with the mark by which the process is ended with its server
 * @returns undefined where ffmpeg is not there, or cannot decode it
 */
export async function filmFrame(
  path: string,
  ms: number,
  mime: VideoMime,
  env: NodeJS.ProcessEnv,
): Promise<Buffer | undefined> {
  const decoded = async (...from: string[]): Promise<Buffer | undefined> => {
    const input = ['-protocol_whitelist', 'file', '-f', mime === 'video/mp4' ? 'mov' : 'matroska', '-i', path];
    const args = ['-v', 'error', '-nostdin', '-threads', '1', ...from, ...input];
    const chunks: Buffer[] = [];
    let size = 0;
    await runFfmpeg(
      [...args, '-an', '-frames:v', '1', '-f', 'image2pipe', '-c:v', 'png', '-'],
      env,
      patienceMs,
      (chunk, stop) => {
        size += chunk.length;
        if (size > mostBytes) stop();
        else chunks.push(chunk);
      },
    );
    return size > 0 && size <= mostBytes ? Buffer.concat(chunks) : undefined;
  };
  return (await decoded('-ss', (Math.max(0, ms) / 1000).toFixed(3))) ?? (await decoded('-sseof', '-0.2'));
}
