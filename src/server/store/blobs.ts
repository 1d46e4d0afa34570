import type Database from 'better-sqlite3';
import { createHash, randomBytes } from 'node:crypto';
import { createReadStream, mkdirSync, readdirSync, readFileSync, rmSync, type ReadStream } from 'node:fs';
import { mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { patiently } from './patience.ts';
import { prepared } from './prepared.ts';

/** Pictures and other large things, as files named by their content. The same content is kept once. */
export class Blobs {
  private readonly folder: string;
  private readonly unfinished: string;
  private readonly openedAt = Date.now();

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

  /** Keeps bytes; gives their name. A file appears whole or not at all, also when the power goes. */
  async keep(bytes: Buffer, mime: string): Promise<string> {
    const name = createHash('sha256').update(bytes).digest('hex');
    const path = this.path(name);
    // A file that is there and shorter than it was is left from a disk that lied: it is written again.
    if ((await sizeOf(path)) !== bytes.length) await this.write(path, bytes);
    await patiently(() => {
      prepared(
        this.db,
        'INSERT INTO blobs (name, mime, size, taken_at) VALUES (?, ?, ?, ?) ON CONFLICT (name) DO UPDATE SET taken_at = excluded.taken_at',
      ).run(name, mime, bytes.length, Date.now());
    });
    // The same content may have been let go of meanwhile; from the row on it is not any more.
    if ((await sizeOf(path)) !== bytes.length) await this.write(path, bytes);
    return name;
  }

  /**
   * Removes files that no evidence names any more. For threads; inside a transaction, which keeps others from naming one
   * meanwhile: a row whose file is gone already, when the power goes in between, is written anew by whoever takes it in.
   * @param takenBefore what was taken in later may belong to what is not written down yet, epoch ms
   * @returns bytes that are free now
   */
  release(names: readonly string[], takenBefore: number): number {
    let freed = 0;
    const unused = prepared(
      this.db,
      `SELECT size FROM blobs b WHERE name = ? AND taken_at < ? AND NOT EXISTS (SELECT 1 FROM blob_uses WHERE blob = b.name)
         AND NOT EXISTS (SELECT 1 FROM files WHERE blob = b.name)`,
    ).pluck();
    for (const name of new Set(names)) {
      const size = unused.get(name, takenBefore) as number | undefined;
      if (size === undefined) continue;
      rmSync(this.path(name), { force: true });
      prepared(this.db, 'DELETE FROM blobs WHERE name = ?').run(name);
      freed += size;
    }
    return freed;
  }

  /** Files that nothing names and that were taken in before a time: of deliveries that were undone, of what broke off. */
  unnamed(takenBefore: number, most: number): string[] {
    return prepared(
      this.db,
      `SELECT name FROM blobs b WHERE taken_at < ? AND NOT EXISTS (SELECT 1 FROM blob_uses WHERE blob = b.name)
         AND NOT EXISTS (SELECT 1 FROM files WHERE blob = b.name) LIMIT ?`,
    )
      .pluck()
      .all(takenBefore, most) as string[];
  }

  private async write(path: string, bytes: Buffer): Promise<void> {
    const draft = join(this.unfinished, randomBytes(8).toString('hex'));
    try {
      const file = await open(draft, 'wx', 0o600);
      try {
        await file.writeFile(bytes);
        await file.datasync();
      } finally {
        await file.close();
      }
      await mkdir(join(path, '..'), { recursive: false, mode: 0o700 }).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'EEXIST') throw error;
      });
      await rename(draft, path);
      await syncFolder(join(path, '..'));
    } catch (error) {
      await rm(draft, { force: true }).catch(() => undefined);
      throw error;
    }
  }

  /**
   * Removes files that no row names: what was written when its server was killed before it could say so. Only files
   * older than this server are looked at. @returns how many there were
   */
  async sweepOrphans(): Promise<number> {
    const known = this.db.prepare('SELECT 1 FROM blobs WHERE name = ?');
    let removed = 0;
    for (const two of await readdir(this.folder).catch(() => [])) {
      if (!/^[0-9a-f]{2}$/.test(two)) continue;
      for (const name of await readdir(join(this.folder, two))) {
        if (!isName(name) || known.get(name) !== undefined) continue;
        const path = this.path(name);
        // Keeping may have let go of it since the folder was read.
        const there = await stat(path).catch(() => undefined);
        if (!there || there.mtimeMs >= this.openedAt - 1000) continue;
        await rm(path, { force: true });
        removed++;
      }
    }
    return removed;
  }

  /**
   * Takes out rows whose file is not there whole: the power went between the two, or the folder was copied while it
   * was written to. @returns their names
   */
  async forgetBroken(newest: number): Promise<string[]> {
    const rows = this.db.prepare('SELECT name, size FROM blobs ORDER BY rowid DESC LIMIT ?').all(newest) as {
      name: string;
      size: number;
    }[];
    const broken: string[] = [];
    for (const { name, size } of rows) if ((await sizeOf(this.path(name))) !== size) broken.push(name);
    for (const name of broken) this.db.prepare('DELETE FROM blobs WHERE name = ?').run(name);
    return broken;
  }

  private path(name: string): string {
    if (!isName(name)) throw new RangeError('a blob is named by 64 hexadecimal digits');
    return join(this.folder, name.slice(0, 2), name);
  }

  find(name: string): { mime: string; size: number } | undefined {
    return this.db.prepare('SELECT mime, size FROM blobs WHERE name = ?').get(name) as
      { mime: string; size: number } | undefined;
  }

  read(name: string): Promise<Buffer> {
    return readFile(this.path(name));
  }

  /** Its bytes as text, read at once: for threads only. Undefined where it is gone, by the rules of keeping or never taken in. */
  text(name: string): string | undefined {
    try {
      return readFileSync(this.path(name), 'utf8');
    } catch {
      return undefined;
    }
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

/** The name of a file outlives a power cut once its folder is written, too. */
async function syncFolder(path: string): Promise<void> {
  const folder = await open(path, 'r');
  try {
    await folder.sync();
  } finally {
    await folder.close();
  }
}

const isName = (name: string): boolean => /^[0-9a-f]{64}$/.test(name);

const sizeOf = (path: string): Promise<number | undefined> =>
  stat(path).then(
    ({ size }) => size,
    () => undefined,
  );
