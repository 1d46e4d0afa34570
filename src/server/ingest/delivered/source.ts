import { readPart } from './spool.ts';

/** A file to be taken in, wherever its bytes are. */
export interface Source {
  /** Path as it was given, with `/`; for parts of archives, below the archive's own. */
  name: string;
  size: number;
  /** When it was last written, epoch ms, where that is known. */
  modifiedAt?: number;
  /** That time names no zone: it is what a clock on a wall showed, read as UTC. */
  modifiedLocal?: boolean;
  read(from: number, length: number): Buffer;
  close(): void;
}

/** Paths come from anywhere: no folder above, no root, no control characters; only ever shown and compared. */
export function cleanName(name: string): string {
  const parts = name
    .replaceAll('\\', '/')

    .replace(/[\0-\x1f\x7f]/g, '�')
    .replace(/^[A-Za-z]:/, '')
    .split('/')
    .filter((part) => part && part !== '.' && part !== '..');
  return parts.join('/').slice(0, 500) || 'unnamed';
}

/** What archives and copies put where they know no time, of 1970, 1980 or 1985, is none. */
const earliestWritten = Date.UTC(2015, 0);
export const lastWritten = (at: number | undefined): { modifiedAt?: number } =>
  at !== undefined && at >= earliestWritten ? { modifiedAt: at } : {};

/** A part of a file that somebody else has opened and closes. */
export function fromPart(fd: number, part: { name: string; start: number; size: number; modifiedAt?: number }): Source {
  const { name, start, size, modifiedAt } = part;
  return {
    name: cleanName(name),
    size,
    ...lastWritten(modifiedAt),
    read: (from, length) => readPart(fd, start + from, Math.min(length, Math.max(0, size - from))),
    close: () => undefined,
  };
}

export function fromBytes(name: string, bytes: Buffer, modifiedAt?: number): Source {
  return {
    name: cleanName(name),
    size: bytes.length,
    ...lastWritten(modifiedAt),
    read: (from, length) => bytes.subarray(from, from + length),
    close: () => undefined,
  };
}

/** All of it; for what is small, or has to be seen whole. @throws Error in words beyond the limit */
export function whole(source: Source, most: number): Buffer {
  if (source.size > most)
    throw new Error(`it has ${megabytes(source.size)}; files of its kind are read up to ${megabytes(most)}`);
  return source.read(0, source.size);
}

const megabytes = (size: number): string => `${(size / 1048576).toFixed(size < 10485760 ? 1 : 0)} MiB`;

const step = 1024 * 1024;
/** Its text in pieces, decoded by what its first bytes say it is written in. */
export function* texts(source: Source): Generator<string> {
  const decoder = new TextDecoder(encodingOf(source.read(0, 1024)), { fatal: false });
  for (let at = 0; at < source.size; at += step) yield decoder.decode(source.read(at, step), { stream: true });
  const rest = decoder.decode();
  if (rest) yield rest;
}

const known =
  /^(?:utf-?8|utf-?16(?:le|be)?|iso-8859-\d{1,2}|latin-?1|windows-125\d|us-ascii|shift_jis|euc-jp|euc-kr|gbk|gb18030|big5|koi8-[ru])$/i;

/** From a byte order mark, from where zeros stand, or from an XML declaration; else UTF-8. */
export function encodingOf(head: Buffer): string {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  if (head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf) return 'utf-8';
  if (head[0] === 0x3c && head[1] === 0) return 'utf-16le';
  if (head[0] === 0 && head[1] === 0x3c) return 'utf-16be';
  const told = /^<\?xml[^>]*\bencoding\s*=\s*["']([\w-]+)["']/.exec(head.toString('latin1'))?.[1];
  // A text we can read here without zeros between is not what “UTF-16” in its declaration says.
  return told && known.test(told) && !/^utf-?16/i.test(told) ? told : 'utf-8';
}
