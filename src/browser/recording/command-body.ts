import type { IncomingMessage } from 'node:http';
import { isTooDeep } from '../../core/formats/json-depth.ts';
import { WireRefused } from './wire-answer.ts';

/** Bodies over this are no WebDriver command. */
const longestBody = 64 * 1024 * 1024;
/** All bodies that are being read at once. */
const mostAtOnce = 512 * 1024 * 1024;
let atOnce = 0;

/** Reads the body of a command. @throws WireRefused when it is too large, breaks off, or too much comes at once */
export async function commandBody(request: IncomingMessage): Promise<Buffer> {
  const told = Number(request.headers['content-length'] ?? 0);
  if (told > longestBody) throw tooLarge();
  const chunks: Buffer[] = [];
  let length = 0;
  try {
    // Left early, the connection stays, so that the answer can still be given.
    for await (const chunk of request.iterator({ destroyOnReturn: false }) as AsyncIterable<Buffer>) {
      length += chunk.length;
      atOnce += chunk.length;
      if (length > longestBody) throw tooLarge();
      if (atOnce > mostAtOnce)
        throw new WireRefused('unknown error', 'too much is being sent at once; send it again in a moment', 429);
      chunks.push(chunk);
    }
  } catch (error) {
    if (error instanceof WireRefused) throw error;
    throw new WireRefused('invalid argument', 'the body of this command broke off');
  } finally {
    atOnce -= length;
  }
  if (!request.complete) throw new WireRefused('invalid argument', 'the body of this command broke off');
  return Buffer.concat(chunks);
}

const tooLarge = (): WireRefused =>
  new WireRefused('invalid argument', `a command may have at most ${longestBody} bytes`, 413);

/** A JSON object; undefined for whatever else the bytes are, and for what is nested to do harm. */
export function parseJson(bytes: Buffer): Record<string, unknown> | undefined {
  if (bytes.length === 0 || isTooDeep(bytes)) return undefined;
  try {
    const value = JSON.parse(bytes.toString()) as unknown;
    return value !== null && typeof value === 'object' ? (value as Record<string, unknown>) : undefined;
  } catch {
    return undefined;
  }
}
