import type { IncomingHttpHeaders, OutgoingHttpHeaders, ServerResponse } from 'node:http';

/** What a driver answered, or what we answer in its stead. */
export interface Answer {
  status: number;
  headers: IncomingHttpHeaders;
  body: Buffer;
}

/** Headers that belong to one connection and are not passed on. */
export const hopByHop: ReadonlySet<string> = new Set([
  'connection',
  'keep-alive',
  'transfer-encoding',
  'upgrade',
  'host',
  'te',
  'trailer',
  'proxy-authorization',
  'authorization',
  'expect',
  'content-length',
]);

export const bytes = (value: unknown): Buffer => Buffer.from(JSON.stringify(value));

/** What a command of another protocol came to, as a driver would have answered it. */
export function answerOf(value: unknown): Answer {
  const failed = Boolean(
    value && typeof value === 'object' && typeof (value as { error?: unknown }).error === 'string',
  );
  return { status: failed ? 500 : 200, headers: {}, body: bytes({ value }) };
}

/** Errors of the WebDriver specification that are said here too, with their status. */
export const wireStatus = {
  'invalid argument': 400,
  'invalid session id': 404,
  'unknown command': 404,
  'unknown method': 405,
  'session not created': 500,
  timeout: 500,
  'unknown error': 500,
} as const;

/** A command that is answered here, in the words of the specification. */
export class WireRefused extends Error {
  constructor(
    readonly error: keyof typeof wireStatus,
    message: string,
    readonly status: number = wireStatus[error],
  ) {
    super(message);
  }
}

/** The headers of an answer that are passed back. */
export function passedBack(headers: IncomingHttpHeaders, length: number): OutgoingHttpHeaders {
  const passed: OutgoingHttpHeaders = {};
  for (const [name, value] of Object.entries(headers)) if (!hopByHop.has(name)) passed[name] = value;
  passed['content-length'] = length;
  return passed;
}

/** Answers a client; one that is gone is no trouble. */
export function send(response: ServerResponse, answer: Answer): void {
  if (response.headersSent || response.destroyed) return;
  response.writeHead(answer.status, passedBack(answer.headers, answer.body.length));
  response.end(answer.body);
}

/** Answers a value of our own, in the form of the specification. */
export function wireValue(response: ServerResponse, status: number, value: unknown): void {
  send(response, {
    status,
    headers: { 'content-type': 'application/json; charset=utf-8', 'cache-control': 'no-cache' },
    body: Buffer.from(JSON.stringify({ value })),
  });
}

export const wireError = (response: ServerResponse, status: number, error: string, message: string): void =>
  wireValue(response, status, { error, message, stacktrace: '' });
