import busboy from 'busboy';
import { closeSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { Spool } from './spool.ts';
import type { IntakeJob } from './intake-thread.ts';

/** Most that one delivery may have; what is larger is given in parts. */
const most = { files: 20_000, bytes: 8 * 1024 ** 3 };

export interface Received {
  files: Extract<IntakeJob['files'][number], { fd: number }>[];
  fields: Record<string, string>;
}

/** Reads a multipart body into spools as it comes. @throws Error in words; then nothing is left open */
export function receive(request: IncomingMessage): Promise<Received> {
  return new Promise((done, fail) => {
    const out: Received = { files: [], fields: {} };
    const spools: Spool[] = [];
    let bytes = 0;
    const give = (error: Error): void => {
      request.unpipe(parser);
      request.resume();
      for (const spool of spools) closeSync(spool.fd);
      spools.length = 0;
      fail(error);
    };
    let parser: busboy.Busboy;
    try {
      parser = busboy({
        headers: request.headers,
        preservePath: true,
        defParamCharset: 'utf8',
        limits: { files: most.files, fields: 50, fieldSize: 4 * 1024 * 1024 },
      });
    } catch {
      fail(new Error('the body is no multipart form; send the files as the field “files” of multipart/form-data'));
      return;
    }
    parser.on('file', (_field, stream, { filename }) => {
      const spool = Spool.open();
      spools.push(spool);
      stream.on('data', (chunk: Buffer) => {
        bytes += chunk.length;
        if (bytes > most.bytes) return give(new Error('the delivery has more than 8 GiB; give it in parts'));
        spool.write(chunk);
      });
      stream.on('end', () => out.files.push({ name: filename || 'unnamed', fd: spool.fd, size: spool.size }));
    });
    parser.on('field', (name, value) => (out.fields[name] = value));
    parser.on('filesLimit', () =>
      give(new Error(`more than ${most.files} files came at once; pack them, or give them in parts`)),
    );
    parser.on('error', (error: Error) =>
      give(new Error(`the body breaks off or is no multipart form: ${error.message}`)),
    );
    request.on('aborted', () => give(new Error('the delivery was broken off by its sender')));
    parser.on('close', () => done(out));
    request.pipe(parser);
  });
}
