import { readlinkSync } from 'node:fs';
import { setPriority } from 'node:os';

/** As far as a thread steps back: it gets a tenth of what it had where others want the processor as well. */
const stepsBack = 10;

/**
 * Lets those go first who drive a browser and are driven: what the thread that calls this does can wait. Where threads
 * have no priorities of their own, nothing changes.
 */
export function beModest(): void {
  if (process.platform !== 'linux') return;
  try {
    // Files are read by the thread that asks, so this is its own number.
    setPriority(Number(readlinkSync('/proc/thread-self').split('/').at(-1)), stepsBack);
  } catch {
    // where it is not allowed, it is done beside them
  }
}
