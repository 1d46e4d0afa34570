// Ends the processes we started, found by a mark in their environment. Plain JavaScript, because the
// keeper runs it without any of our packages.
import { readdirSync, readFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';

/** Name of the environment variable that marks a process as ours; its value begins with the owner's key. */
export const ownerVariable = 'ISKEL_OWNER';

/** Ids of all processes whose mark begins with `mark`. */
export function processesMarked(mark) {
  const wanted = Buffer.from(`${ownerVariable}=${mark}`);
  const found = [];
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name) || Number(name) === process.pid) continue;
    try {
      if (readFileSync(`/proc/${name}/environ`).includes(wanted)) found.push(Number(name));
    } catch {
      // gone meanwhile, or not ours to read
    }
  }
  return found;
}

/**
 * Kills every process with the mark, again until none is left, then removes the folder they worked
 * in. A file that a dying process still writes is no reason to fail: the next start removes it.
 */
export async function sweep(mark, folder) {
  for (let round = 0; round < 20; round++) {
    const left = processesMarked(mark);
    if (left.length === 0) break;
    for (const id of left) {
      try {
        process.kill(id, 'SIGKILL');
      } catch {
        // it ended by itself
      }
    }
    await new Promise((done) => setTimeout(done, 25));
  }
  if (folder) await rm(folder, { recursive: true, force: true, maxRetries: 5, retryDelay: 50 }).catch(() => {});
}
