import { createCipheriv, hkdfSync } from 'node:crypto';
import { closeSync, constants, openSync } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import { readPart } from './spool.ts';
import { cleanName, lastWritten, type Source } from './source.ts';

/**
 * Bytes of a delivery that is still on its way. They are not masked yet, so they lie on the disk under a key that only
 * their sender has (AES-256 in counter mode, which can be read and written anywhere): whoever finds the file later can
 * read nothing in it, and a sender that comes back goes on where it was.
 */
export interface Seal {
  path: string;
  key: Buffer;
}

/** The key of one delivery: of the sender's, and of what is drawn here, so that none is used twice. */
export const sealKey = (sender: Buffer, salt: Buffer): Buffer =>
  Buffer.from(hkdfSync('sha256', sender, salt, 'iskel delivery', 32));

const blockSize = 16;

/** Locks or unlocks bytes that stand at a place; both are the same. */
export function sealed(key: Buffer, at: number, bytes: Buffer): Buffer {
  const counter = Buffer.alloc(blockSize);
  counter.writeBigUInt64BE(BigInt(Math.floor(at / blockSize)), blockSize - 8);
  const cipher = createCipheriv('aes-256-ctr', key, counter);
  const skip = at % blockSize;
  if (skip) cipher.update(Buffer.alloc(skip));
  return cipher.update(bytes);
}

/** Writes what comes of a delivery, wherever in it. */
export class SealedWriter {
  private constructor(
    private readonly file: FileHandle,
    private readonly key: Buffer,
  ) {}

  static async open({ path, key }: Seal): Promise<SealedWriter> {
    return new SealedWriter(await open(path, constants.O_RDWR | constants.O_CREAT, 0o600), key);
  }

  async write(at: number, bytes: Buffer): Promise<void> {
    const locked = sealed(this.key, at, bytes);
    for (let done = 0; done < locked.length;)
      done += (await this.file.write(locked, done, locked.length - done, at + done)).bytesWritten;
  }

  /** What was written outlives a power cut. */
  sync(): Promise<void> {
    return this.file.datasync();
  }

  close(): Promise<void> {
    return this.file.close();
  }
}

/** The files of a sealed delivery, one behind the other. @returns also what closes it */
export function openSealed(
  { path, key }: Seal,
  files: readonly { name: string; start: number; size: number; modifiedAt?: number }[],
): { sources: Source[]; close(): void } {
  const fd = openSync(path, 'r');
  const sources = files.map(({ name, start, size, modifiedAt }): Source => ({
    name: cleanName(name),
    size,
    ...lastWritten(modifiedAt),
    read: (from, length) =>
      sealed(key, start + from, readPart(fd, start + from, Math.min(length, Math.max(0, size - from)))),
    close: () => undefined,
  }));
  return { sources, close: () => closeSync(fd) };
}
