import busboy from 'busboy';
import type { IncomingMessage } from 'node:http';
import { finished, pipeline } from 'node:stream/promises';
import { asError } from '../../../core/background.ts';
import type { SpooledFile } from './intake-thread.ts';
import { Spool } from './spool.ts';

/** Most that one delivery may have; what is larger is given in parts. */
const most = { files: 20_000, bytes: 8 * 1024 ** 3, fields: 50, fieldBytes: 4 * 1024 ** 2, namesBytes: 8 * 1024 ** 2 };

/** A delivery as it came: all its files one behind the other in one spool, which whoever has this closes. */
export interface Received {
  spool: Spool;
  files: SpooledFile[];
  fields: Record<string, string>;
}

/** Said to the sender of a delivery that is not taken. */
export class DeliveryRefused extends Error {
  constructor(
    message: string,
    readonly status: 400 | 413 | 507 = 400,
  ) {
    super(message);
  }
}

/** The body as it comes. Left early, the connection stays, so that the answer can still be given. */
async function* partsOf(request: IncomingMessage): AsyncGenerator<Buffer> {
  for await (const chunk of request.iterator({ destroyOnReturn: false })) yield chunk as Buffer;
}

/** Reads a multipart body into a spool as it comes. @throws DeliveryRefused in words; then nothing is left open */
export async function receive(request: IncomingMessage): Promise<Received> {
  let parser: busboy.Busboy;
  try {
    parser = busboy({
      headers: request.headers,
      preservePath: true,
      defParamCharset: 'utf8',
      limits: { files: most.files, fields: most.fields, fieldSize: most.fieldBytes, parts: most.files + most.fields },
    });
  } catch {
    throw new DeliveryRefused(
      'the body is no multipart form; send the files as the field “files” of multipart/form-data',
    );
  }
  const out: Received = { spool: Spool.open(), files: [], fields: {} };
  try {
    collect(parser, out);
    await Promise.all([pipeline(partsOf(request), parser), finished(parser)]);
    return out;
  } catch (error) {
    out.spool.close();
    if (error instanceof DeliveryRefused) throw error;
    const { message, code } = asError(error) as NodeJS.ErrnoException;
    if (code === 'ENOSPC') throw new DeliveryRefused('the disk is full; nothing of the delivery was kept', 507);
    throw new DeliveryRefused(`the body breaks off or is no multipart form: ${message}`);
  }
}

interface PartOnItsWay {
  name: string;
  start: number;
  chunks: Buffer[];
  ended: boolean;
}

function collect(parser: busboy.Busboy, out: Received): void {
  const { spool, files, fields } = out;
  let names = 0;
  const refuse = (message: string, status: 400 | 413 = 413): void => {
    parser.destroy(new DeliveryRefused(message, status));
  };
  // Several parts may be told of before the first has given all its bytes: one after the other goes into the spool.
  const line: PartOnItsWay[] = [];
  const write = (): void => {
    for (let first = line[0]; first; first = line[0]) {
      for (const chunk of first.chunks.splice(0)) spool.write(chunk);
      if (!first.ended) return;
      files.push({ name: first.name, start: first.start, size: spool.size - first.start });
      line.shift();
      if (line[0]) line[0].start = spool.size;
    }
  };
  const guard = (work: () => void): void => {
    try {
      work();
    } catch (error) {
      parser.destroy(asError(error));
    }
  };
  let bytes = 0;
  parser.on('file', (_field, stream, { filename }) => {
    const name = filename || 'unnamed';
    const part: PartOnItsWay = { name, start: spool.size, chunks: [], ended: false };
    line.push(part);
    names += name.length;
    if (names > most.namesBytes) refuse('the names of its files are too long; give it in parts');
    // A part that breaks off tells so by itself; the whole is refused with it.
    stream.on('error', () => undefined);
    stream.on('data', (chunk: Buffer) => {
      bytes += chunk.length;
      if (bytes > most.bytes) return refuse('the delivery has more than 8 GiB; give it in parts');
      part.chunks.push(chunk);
      guard(write);
    });
    stream.on('end', () => {
      part.ended = true;
      guard(write);
    });
  });
  parser.on('field', (name, value, { valueTruncated }) => {
    if (valueTruncated) refuse(`the field “${name.slice(0, 60)}” has more than ${most.fieldBytes} bytes`);
    fields[name] = value;
  });
  parser.on('filesLimit', () => refuse(`more than ${most.files} files came at once; pack them, or give them in parts`));
  parser.on('fieldsLimit', () => refuse(`more than ${most.fields} fields came; send files as the field “files”`, 400));
}
