import { closeSync, fstatSync, lstatSync, openSync, readdirSync } from 'node:fs';
import { join, relative, resolve } from 'node:path';
import type { SpooledFile } from './intake-thread.ts';
import { readPart, Spool } from './spool.ts';

/** Most that is taken of what a command left. */
const mostFiles = 5000;
const mostBytes = 2 * 1024 ** 3;
const pieceBytes = 1024 ** 2;
/** File systems round times; a file that is older than its beginning by less is its own, ms. */
const roundedMs = 2000;

/**
 * What a test command wrote to the places it is said to, since it began: what lay there before is of another time.
 * @param folder where the places are looked for
 * @param from epoch ms
 * @returns a spool that whoever has it closes
 */
export async function reportsSince(
  folder: string,
  places: readonly string[],
  from: number,
): Promise<{ spool: Spool; files: SpooledFile[] }> {
  const spool = Spool.open();
  const files: SpooledFile[] = [];
  const take = async (path: string): Promise<void> => {
    const stat = lstatSync(path, { throwIfNoEntry: false });
    if (!stat || files.length >= mostFiles) return;
    if (stat.isDirectory()) {
      for (const name of readdirSync(path).sort()) await take(join(path, name));
      return;
    }
    if (!stat.isFile() || stat.mtimeMs < from - roundedMs || spool.size + stat.size > mostBytes) return;
    const start = spool.size;
    await copy(path, spool);
    files.push({
      name: relative(folder, path) || path,
      start,
      size: spool.size - start,
      modifiedAt: Math.round(stat.mtimeMs),
    });
  };
  try {
    for (const place of places) await take(resolve(folder, place));
    return { spool, files };
  } catch (error) {
    spool.close();
    throw error;
  }
}

/** In pieces, between which everything else has its turn. */
async function copy(path: string, spool: Spool): Promise<void> {
  const fd = openSync(path, 'r');
  try {
    const { size } = fstatSync(fd);
    for (let at = 0; at < size; at += pieceBytes) {
      spool.write(readPart(fd, at, Math.min(pieceBytes, size - at)));
      await new Promise((done) => setImmediate(done));
    }
  } finally {
    closeSync(fd);
  }
}
