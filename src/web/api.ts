/** An error the server told in words. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly body: unknown,
  ) {
    super(message);
  }
}

/** One call of the JSON API. @throws ApiError with the server's words, or words of our own when it cannot be reached */
export async function api<T>(method: 'GET' | 'POST' | 'PUT' | 'DELETE', path: string, body?: unknown): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api${path}`, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    });
  } catch {
    throw new ApiError(
      0,
      'unreachable',
      'Iskel does not answer. Is the server still running? Start it again with “npm start”; nothing is lost.',
      undefined,
    );
  }
  const read: unknown = await answer.json().catch(() => ({}));
  if (!answer.ok) throw errorOf(answer.status, read);
  return read as T;
}

/** What an answer that is no success says. */
export function errorOf(status: number, body: unknown): ApiError {
  const { error } = body as { error?: { code: string; message: string } };
  return new ApiError(status, error?.code ?? 'failed', error?.message ?? `the call failed with status ${status}`, body);
}
