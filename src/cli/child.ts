import { spawn, type StdioOptions } from 'node:child_process';
import { constants } from 'node:os';

/**
 * Starts a program, hands our signals on to it and waits for its end.
 * @param failed told why it could not be started
 * @returns its exit code; 127 where it could not be started, 128 and the signal's number where one ended it
 */
export function carriedOut(
  [program, ...args]: readonly string[],
  options: { stdio: StdioOptions; env?: NodeJS.ProcessEnv },
  failed: (error: Error) => void = () => undefined,
): Promise<number> {
  const child = spawn(program!, args, options);
  for (const signal of ['SIGTERM', 'SIGINT', 'SIGHUP'] as const) process.on(signal, () => child.kill(signal));
  return new Promise((done) => {
    child.once('error', (error) => {
      failed(error);
      done(127);
    });
    child.once('exit', (code, signal) => done(code ?? 128 + (constants.signals[signal!] ?? 0)));
  });
}
