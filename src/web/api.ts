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
export async function api<T>(method: Method, path: string, body?: unknown): Promise<T> {
  const answer = await called(method, path, body);
  const read: unknown = await answer.json().catch(() => ({}));
  if (!answer.ok) throw errorOf(answer.status, read);
  return read as T;
}

/** One that is answered by a text. @throws ApiError as `api` does */
export async function apiText(method: Method, path: string, body?: unknown): Promise<string> {
  const answer = await called(method, path, body);
  if (!answer.ok) throw errorOf(answer.status, await answer.json().catch(() => ({})));
  return answer.text();
}

type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

async function called(method: Method, path: string, body: unknown): Promise<Response> {
  try {
    return await fetch(`/api${path}`, {
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
}

/** What an answer that is no success says. */
export function errorOf(status: number, body: unknown): ApiError {
  const { error } = body as { error?: { code: string; message: string } };
  return new ApiError(status, error?.code ?? 'failed', error?.message ?? `the call failed with status ${status}`, body);
}
