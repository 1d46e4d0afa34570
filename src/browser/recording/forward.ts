import { request, type IncomingHttpHeaders, type OutgoingHttpHeaders } from 'node:http';
import type { Driver } from '../driver-process.ts';

export interface Answer {
  status: number;
  headers: IncomingHttpHeaders;
  body: Buffer;
}

/** Headers that belong to one connection and are not passed on. */
const hopByHop = new Set([
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

/** Sends one request to a driver and gives its whole answer, unchanged. */
export function forward(
  driver: Driver,
  method: string,
  path: string,
  headers: IncomingHttpHeaders,
  body: Buffer,
): Promise<Answer> {
  const passed: OutgoingHttpHeaders = {};
  for (const [name, value] of Object.entries(headers)) if (!hopByHop.has(name)) passed[name] = value;
  if (body.length || method === 'POST' || method === 'PUT') passed['content-length'] = body.length;
  return new Promise((done, fail) => {
    const outgoing = request(
      { host: '127.0.0.1', port: driver.port, method, path, headers: passed, agent: driver.agent },
      (answer) => {
        const chunks: Buffer[] = [];
        answer.on('data', (chunk: Buffer) => chunks.push(chunk));
        answer.on('end', () =>
          done({ status: answer.statusCode ?? 500, headers: answer.headers, body: Buffer.concat(chunks) }),
        );
        answer.on('error', fail);
      },
    );
    outgoing.on('error', fail);
    outgoing.end(body);
  });
}

/** A command of our own; its value. Rejects with the driver's words. */
export async function ask<T>(driver: Driver, path: string, body: object): Promise<T> {
  const headers = { 'content-type': 'application/json; charset=utf-8' };
  const answer = await forward(driver, 'POST', path, headers, Buffer.from(JSON.stringify(body)));
  const { value } = JSON.parse(answer.body.toString()) as { value: T & { error?: string; message?: string } };
  if (answer.status !== 200) throw new Error(value?.message || value?.error || `the driver answered ${answer.status}`);
  return value;
}

/** The headers of an answer that are passed back. */
export function passedBack(headers: IncomingHttpHeaders, length: number): OutgoingHttpHeaders {
  const passed: OutgoingHttpHeaders = {};
  for (const [name, value] of Object.entries(headers)) if (!hopByHop.has(name)) passed[name] = value;
  passed['content-length'] = length;
  return passed;
}
