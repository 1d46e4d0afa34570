import type { Context } from 'hono';
import type { ContentfulStatusCode } from 'hono/utils/http-status';
import type { ObjectSchema } from 'joi';

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

/** Reads a JSON body of a known shape. */
export async function bodyAs<T>(c: Context, shape: ObjectSchema<T>): Promise<T> {
  let body: unknown;
  try {
    body = await c.req.json();
  } catch {
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
