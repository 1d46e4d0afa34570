import type Database from 'better-sqlite3';
import { createHash, randomBytes } from 'node:crypto';
import { createReadStream, existsSync, mkdirSync, readdirSync, rmSync, type ReadStream } from 'node:fs';
import { readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';

/** Pictures and other large things, as files named by their content. The same content is kept once. */
export class Blobs {
  private readonly folder: string;
  private readonly unfinished: string;

  constructor(
    private readonly db: Database.Database,
    home: string,
    tidy = true,
  ) {
    this.folder = join(home, 'blobs');
    this.unfinished = join(this.folder, 'unfinished');
    mkdirSync(this.unfinished, { recursive: true, mode: 0o700 });
    // What a killed server had not finished writing belongs to nobody.
    if (tidy) for (const name of readdirSync(this.unfinished)) rmSync(join(this.unfinished, name));
  }

  /** Keeps bytes; gives their name. A file appears whole or not at all. */
  async keep(bytes: Buffer, mime: string): Promise<string> {
    const name = createHash('sha256').update(bytes).digest('hex');
    const path = this.path(name);
    if (!existsSync(path)) {
      const draft = join(this.unfinished, randomBytes(8).toString('hex'));
      await writeFile(draft, bytes, { mode: 0o600 });
      mkdirSync(join(this.folder, name.slice(0, 2)), { recursive: true, mode: 0o700 });
      await rename(draft, path);
    }
    this.db.prepare('INSERT OR IGNORE INTO blobs (name, mime, size) VALUES (?, ?, ?)').run(name, mime, bytes.length);
    return name;
  }

  private path(name: string): string {
    if (!/^[0-9a-f]{64}$/.test(name)) throw new RangeError('a blob is named by 64 hexadecimal digits');
    return join(this.folder, name.slice(0, 2), name);
  }

  find(name: string): { mime: string; size: number } | undefined {
    return this.db.prepare('SELECT mime, size FROM blobs WHERE name = ?').get(name) as
      { mime: string; size: number } | undefined;
  }

  read(name: string): Promise<Buffer> {
    return readFile(this.path(name));
  }

  /** @param range first and last byte, both included */
  stream(name: string, range?: { start: number; end: number }): ReadStream {
    return createReadStream(this.path(name), range);
  }

  /** Where the bytes lie, for programs that read files. */
  place(name: string): string {
    return this.path(name);
  }
}
