import type { Logger } from 'pino';
import { asError } from '../core/background.ts';

let count = 0;

/** How often something failed that nobody had caught where it began. */
export const faults = (): number => count;

/**
 * What nobody caught is logged and counted, and everything else goes on: other people's tests are being recorded.
 * It is the last resort and no way of working; the foot of every page says that it was reached.
 */
export function watchForFaults(log: Logger): void {
  const note = (thrown: unknown): void => {
    count++;
    const { stack, message } = asError(thrown);
    log.fatal({ problem: stack ?? message }, 'something failed that nobody had caught');
  };
  process.on('uncaughtException', note);
  process.on('unhandledRejection', note);
}
