import { randomBytes } from 'node:crypto';
import { closeSync, openSync, readSync, unlinkSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/**
 * Bytes kept aside while they are read: a file that has lost its name as soon as it is open, so that
 * nothing unmasked can be found on the disk, not even after a crash. It exists as long as it is open.
 */
export class Spool {
  size = 0;
  private constructor(readonly fd: number) {}

  static open(): Spool {
    const path = join(tmpdir(), `iskel-spool-${randomBytes(8).toString('hex')}`);
    const fd = openSync(path, 'wx+', 0o600);
    unlinkSync(path);
    return new Spool(fd);
  }

  write(chunk: Uint8Array): void {
    let done = 0;
    while (done < chunk.length) done += writeSync(this.fd, chunk, done, chunk.length - done, this.size + done);
    this.size += chunk.length;
  }

  /** Once; later calls do nothing. */
  close(): void {
    if (this.closed) return;
    this.closed = true;
    closeSync(this.fd);
  }
  private closed = false;
}

/** Reads a part of an open file; shorter at its end. */
export function readPart(fd: number, from: number, length: number): Buffer {
  const out = Buffer.allocUnsafe(length);
  let done = 0;
  while (done < length) {
    const got = readSync(fd, out, done, length - done, from + done);
    if (got === 0) break;
    done += got;
  }
  return out.subarray(0, done);
}
