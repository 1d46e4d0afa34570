import { pipeline, Readable } from 'node:stream';
import { createGunzip } from 'node:zlib';
import tar from 'tar-stream';
import yauzl from 'yauzl';
import { fromBytes, fromPart, type Source } from './source.ts';
import { Spool } from './spool.ts';

/**
 * Archives unpacked with every bound kept: how many entries, how many bytes, how much a part may grow,
 * how deep archives may lie in archives. Nothing is written under a name an archive gives.
 */
export const limits = {
  entries: 20_000,
  bytes: 4 * 1024 ** 3,
  /** A part that grows more than this, and beyond a size that does harm, is a bomb. */
  growth: 250,
  growthFrom: 64 * 1024 ** 2,
  depth: 3,
};

export interface Unpacked {
  sources: Source[];
  problems: { name: string; message: string }[];
}

/** What all archives of one delivery may use together. */
export class Budget {
  entries = 0;
  bytes = 0;
  private held = 0;
  private spool: Spool | undefined;
  /** Parts that lie in the spool and are still to be read, and the archives that are still being opened. */
  private users = 1;

  /** Whether a part may stay in memory; what may not goes to the disk. */
  holds(size: number): boolean {
    if (size > smallest || this.held + size > mostHeld) return false;
    this.held += size;
    return true;
  }

  /** Where parts lie that are not held in memory: in one file for all of them. */
  get disk(): Spool {
    return (this.spool ??= Spool.open());
  }

  /** A part of that file, which goes when the last of them is closed. */
  part(name: string, start: number, size: number, modifiedAt?: number): Source {
    this.users++;
    const source = fromPart(this.disk.fd, { name, start, size, ...(modifiedAt === undefined ? {} : { modifiedAt }) });
    let open = true;
    return {
      ...source,
      close: () => {
        if (open) this.release();
        open = false;
      },
    };
  }

  /** All archives are opened. */
  release(): void {
    if (--this.users === 0) this.spool?.close();
  }

  count(name: string): void {
    if (++this.entries > limits.entries)
      throw new Error(
        `there are more than ${limits.entries} files in it; give the folder itself, or parts of it (stopped at ${name})`,
      );
  }
  take(size: number): void {
    this.bytes += size;
    if (this.bytes > limits.bytes) throw new Error('unpacked it has more than 4 GiB; give parts of it');
  }
}

const smallest = 1024 ** 2;
/** Of all parts together so much lies in memory. */
const mostHeld = 48 * 1024 ** 2;

/** Collects a stream into memory, or onto the disk when it grows or others fill it; stops a bomb. */
async function collect(
  stream: Readable,
  name: string,
  packed: number,
  budget: Budget,
  modifiedAt?: number,
): Promise<Source> {
  const parts: Buffer[] = [];
  let size = 0;
  let start: number | undefined;
  try {
    for await (const chunk of stream as AsyncIterable<Buffer>) {
      size += chunk.length;
      budget.take(chunk.length);
      if (size > limits.growthFrom && size > packed * limits.growth)
        throw new Error(
          `it grows more than ${limits.growth} times when unpacked; that is no evidence, it was left out`,
        );
      if (start === undefined && size > smallest) start = spill(parts, budget);
      if (start === undefined) parts.push(chunk);
      else budget.disk.write(chunk);
    }
  } catch (error) {
    stream.destroy();
    throw error;
  }
  if (start === undefined && !budget.holds(size)) start = spill(parts, budget);
  return start === undefined
    ? fromBytes(name, Buffer.concat(parts), modifiedAt)
    : budget.part(name, start, size, modifiedAt);
}

/** What was held of a part goes to the disk. @returns where it begins there */
function spill(parts: Buffer[], budget: Budget): number {
  const start = budget.disk.size;
  for (const part of parts.splice(0)) budget.disk.write(part);
  return start;
}

const leadsOut = (path: string): boolean => /^(?:[\\/]|[A-Za-z]:)|(?:^|[\\/])\.\.(?:[\\/]|$)/.test(path);

/** Extra fields in which archives tell seconds or ticks of UTC beside the time of the wall. */
const universal = new Set([0x5455, 0x000a]);

/** When an entry was written: in UTC where the archive tells it so, else by a clock whose zone nobody wrote down. */
function writtenAt(entry: yauzl.Entry): { at: number; local: boolean } {
  const local = !entry.extraFields.some(({ id }) => universal.has(id));
  return { at: entry.getLastModDate({ timezone: 'UTC' }).getTime(), local };
}

class Reader extends yauzl.RandomAccessReader {
  constructor(private readonly source: Source) {
    super();
  }
  override _readStreamForRange(start: number, end: number): Readable {
    return streamOf(this.source, start, end);
  }
}

export async function unzip(source: Source, budget: Budget): Promise<Unpacked> {
  const out: Unpacked = { sources: [], problems: [] };
  const zip = await new Promise<yauzl.ZipFile>((done, fail) =>
    yauzl.fromRandomAccessReader(
      new Reader(source),
      source.size,
      { lazyEntries: true, autoClose: false, validateEntrySizes: true, decodeStrings: true },
      (error, opened) => (error ? fail(error) : done(opened)),
    ),
  );
  if (zip.entryCount > limits.entries) {
    throw new Error(
      `it says it holds ${zip.entryCount} files; more than ${limits.entries} are not taken at once, give parts of it`,
    );
  }
  await new Promise<void>((done, fail) => {
    zip.on('error', fail);
    zip.on('end', () => done());
    zip.on('entry', (entry: yauzl.Entry) => {
      (async () => {
        const { fileName } = entry;
        if (!fileName.endsWith('/')) {
          budget.count(fileName);
          const type = (entry.externalFileAttributes >>> 16) & 0xf000;
          if (leadsOut(fileName))
            out.problems.push({ name: fileName, message: 'its name leads out of the archive; it was left out' });
          else if (type === 0xa000)
            out.problems.push({ name: fileName, message: 'it is a link, which is not followed; it was left out' });
          else if (entry.generalPurposeBitFlag & 1)
            out.problems.push({ name: fileName, message: 'it is encrypted; unpack it first' });
          else {
            try {
              const stream = await new Promise<Readable>((ok, no) =>
                zip.openReadStream(entry, (error, opened) => (error ? no(error) : ok(opened))),
              );
              const { at, local } = writtenAt(entry);
              const part = await collect(stream, `${source.name}/${fileName}`, entry.compressedSize, budget, at);
              out.sources.push(local ? { ...part, modifiedLocal: true } : part);
            } catch (error) {
              out.problems.push({ name: fileName, message: (error as Error).message });
            }
          }
        }
        zip.readEntry();
      })().catch(fail);
    });
    zip.readEntry();
  }).catch((error: Error) => {
    // A name that leads out stops yauzl itself; what was read before it is kept.
    out.problems.push({
      name: source.name,
      message: /invalid relative path|absolute path/.test(error.message)
        ? `a name in it leads out of the archive (${error.message}); it was read up to there`
        : error.message,
    });
  });
  zip.close();
  return out;
}

/** Bytes of a source as they are asked for. Its file is not this stream's: one that breaks off must not close it. */
function streamOf(source: Source, from = 0, until = source.size): Readable {
  let at = from;
  return new Readable({
    highWaterMark: 256 * 1024,
    read(size) {
      const part = source.read(at, Math.min(size, until - at));
      at += part.length;
      this.push(part.length ? part : null);
    },
  });
}

/** A gzip's content, under its name without the ending. */
export async function gunzip(source: Source, budget: Budget): Promise<Source> {
  const name = source.name.replace(/\.gz$/i, '').replace(/\.tgz$/i, '.tar');
  const from = streamOf(source);
  const to = createGunzip();
  // What fails on the one side ends the other; the reader below tells of it.
  pipeline(from, to, () => undefined);
  return collect(to, name === source.name ? `${name}.out` : name, source.size, budget, source.modifiedAt);
}

export async function untar(source: Source, budget: Budget): Promise<Unpacked> {
  const out: Unpacked = { sources: [], problems: [] };
  const extract = tar.extract();
  const stream = streamOf(source);
  pipeline(stream, extract, () => undefined);
  try {
    for await (const entry of extract) {
      const { name, type, mtime, pax } = entry.header;
      // The longer form of the header tells fractions of seconds.
      const fine = Number((pax as Record<string, string> | null | undefined)?.mtime);
      const written = Number.isFinite(fine) && fine > 0 ? fine * 1000 : mtime?.getTime();
      if (type === 'file' || type === 'contiguous-file') {
        budget.count(name);
        if (leadsOut(name)) {
          out.problems.push({ name, message: 'its name leads out of the archive; it was left out' });
          entry.resume();
        } else
          out.sources.push(
            await collect(entry as unknown as Readable, `${source.name}/${name}`, Infinity, budget, written),
          );
      } else {
        if (type === 'symlink' || type === 'link')
          out.problems.push({ name, message: 'it is a link, which is not followed; it was left out' });
        entry.resume();
      }
    }
  } catch (error) {
    if ((error as Error).message.startsWith('there are more')) throw error;
    out.problems.push({
      name: source.name,
      message: `the archive breaks off: ${(error as Error).message}; what came before was read`,
    });
  }
  return out;
}
