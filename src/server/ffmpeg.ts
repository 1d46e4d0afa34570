import { spawn } from 'node:child_process';

export interface FfmpegEnd {
  /** It is not installed. */
  missing: boolean;
  code: number | null;
  /** The first of what it complained of. */
  said: string;
}

/**
 * Runs ffmpeg to its end, or until the patience is over.
 * @param env with the mark by which the process is ended with its server
 * @param heard what it writes to its standard output; `stop` ends it early
 */
export function runFfmpeg(
  args: readonly string[],
  env: NodeJS.ProcessEnv,
  patienceMs: number,
  heard: (chunk: Buffer, stop: () => void) => void = () => undefined,
): Promise<FfmpegEnd> {
  return new Promise((done) => {
    const child = spawn('ffmpeg', args, { env, stdio: ['ignore', 'pipe', 'pipe'] });
    const stop = (): void => void child.kill('SIGKILL');
    const timer = setTimeout(stop, patienceMs);
    let said = '';
    child.stdout.on('error', stop);
    child.stderr.on('error', stop);
    child.stderr.on('data', (chunk: Buffer) => (said = (said + chunk.toString()).slice(0, 2000)));
    child.stdout.on('data', (chunk: Buffer) => heard(chunk, stop));
    const end = (missing: boolean, code: number | null): void => {
      clearTimeout(timer);
      done({ missing, code, said: said.split('\n')[0]! });
    };
    child.once('error', () => end(true, null));
    child.once('close', (code) => end(false, code));
  });
}
