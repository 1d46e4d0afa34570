import type { Context } from 'hono';
import type { ContentfulStatusCode } from 'hono/utils/http-status';
import type { ObjectSchema } from 'joi';
import { ThreadHung } from '../jobs/thread.ts';
import { deepest, isTooDeep } from '../../core/formats/json-depth.ts';

/** An error a caller can act on: what was wrong, where, and how to mend it. */
export class Problem extends Error {
  constructor(
    readonly status: ContentfulStatusCode,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

export const notFound = (what: string, id: string): Problem =>
  new Problem(
    404,
    'not-found',
    `there is no ${what} “${id}” here; it may have been removed, or the address is mistyped`,
  );

/** Gives the thing, or says that there is none. */
export function found<T>(thing: T | undefined, what: string, id: string): T {
  if (thing === undefined) throw notFound(what, id);
  return thing;
}

/** A number of a query, within bounds. @throws Problem naming what it must be */
export function queryNumber(
  c: Context,
  name: string,
  { min, max, whole = false }: { min: number; max: number; whole?: boolean },
): number | undefined {
  const text = c.req.query(name);
  if (text === undefined || text === '') return undefined;
  const value = Number(text);
  if (!(value >= min && value <= max) || (whole && !Number.isInteger(value)))
    throw new Problem(
      400,
      'wrong-number',
      `“${name}” must be ${whole ? 'a whole number' : 'a number'} from ${min} to ${max}, got “${text.slice(0, 60)}”`,
    );
  return value;
}

/** Shorter ones are put together from their parts. */
const shortBody = 4 * 1024 ** 2;

/**
 * Reads a body whole. Left early, what is still to come is not read and its connection stays, so that the answer
 * can be given.
 * @param allows is told how much has come, and throws when that is too much
 * @param told how much it says it is, so that it is put together once
 */
export async function readBody(
  body: ReadableStream<Uint8Array> | null,
  allows: (size: number, more: number) => void,
  told?: number,
): Promise<Buffer> {
  if (!body) return Buffer.alloc(0);
  const reader = body.getReader();
  const parts: Uint8Array[] = [];
  const whole = told !== undefined && told > shortBody ? Buffer.alloc(told) : undefined;
  let size = 0;
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return whole ? whole.subarray(0, size) : Buffer.concat(parts);
      size += value.length;
      allows(size, value.length);
      if (whole) whole.set(value, size - value.length);
      else parts.push(value);
    }
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem(400, 'broken-off', 'the body broke off before it had come whole; nothing was changed');
  } finally {
    reader.releaseLock();
  }
}

/** Most bytes of a JSON body; files and lines come another way. */
const longestBody = 8 * 1024 ** 2;

/** The text of a body, within bounds. Kept with the call, so that it can be read again when the call is tried again. */
async function textOf(c: Context): Promise<string> {
  const kept = c.get('body') as string | undefined;
  if (kept !== undefined) return kept;
  const tooLarge = (): Problem =>
    new Problem(413, 'too-large', `a body of JSON may have ${longestBody} bytes; give it in parts`);
  if (Number(c.req.header('content-length') ?? 0) > longestBody) throw tooLarge();
  const bytes = await readBody(c.req.raw.body, (size) => {
    if (size > longestBody) throw tooLarge();
  });
  if (isTooDeep(bytes)) throw new Problem(400, 'wrong-body', `the body is nested more than ${deepest} deep`);
  const text = bytes.toString();
  c.set('body', text);
  return text;
}

/** Reads a JSON body of a known shape. */
export async function bodyAs<T>(c: Context, shape: ObjectSchema<T>): Promise<T> {
  let body: unknown;
  try {
    body = JSON.parse(await textOf(c));
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem(
      400,
      'unreadable-body',
      'the body is not readable as JSON; send an object with content-type application/json',
    );
  }
  const { value, error } = shape.validate(body, { abortEarly: false });
  if (error)
    throw new Problem(
      400,
      'wrong-body',
      `${error.details.map((detail) => detail.message).join('; ')}; mend this in the body and send it again`,
    );
  return value as T;
}

/** What a thread answers, or in words that it took too long. */
export async function inTime<T>(answer: Promise<T>): Promise<T> {
  try {
    return await answer;
  } catch (error) {
    if (error instanceof ThreadHung)
      throw new Problem(503, 'took-too-long', `${error.message}; choose less at once, and look into the server log`);
    throw error;
  }
}
