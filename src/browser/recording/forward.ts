import { request, type IncomingHttpHeaders, type OutgoingHttpHeaders } from 'node:http';
import type { Driver } from '../driver-process.ts';
import { hopByHop, type Answer } from './wire-answer.ts';

export type { Answer } from './wire-answer.ts';

/** A driver's answer, a whole-page picture say, is never larger. */
const largestAnswer = 256 * 1024 * 1024;
/** Commands of our own: a driver that has not answered one by then is stopped or hangs. */
export const ownCommandMs = 15_000;

/** A browser takes a second or two to start, a minute on a machine that is short of everything. */
export const startLimitMs = 150_000;

/** The driver was sent something and did not answer in time. */
export class DriverSilent extends Error {}

/**
 * Sends one request to a driver and gives its whole answer, unchanged.
 * @param limitMs how long the answer may take; a test's own commands have the limits their session sets, and none here
 */
export function forward(
  driver: Driver,
  method: string,
  path: string,
  headers: IncomingHttpHeaders,
  body: Buffer,
  limitMs?: number,
): Promise<Answer> {
  const passed: OutgoingHttpHeaders = {};
  for (const [name, value] of Object.entries(headers)) if (!hopByHop.has(name)) passed[name] = value;
  if (body.length || method === 'POST' || method === 'PUT') passed['content-length'] = body.length;
  return new Promise((done, fail) => {
    const timer =
      limitMs === undefined
        ? undefined
        : setTimeout(() => {
            outgoing.destroy(new DriverSilent(`the driver did not answer ${method} ${path} for ${limitMs / 1000} s`));
          }, limitMs);
    const giveUp = (error: Error): void => {
      clearTimeout(timer);
      fail(error);
    };
    const outgoing = request(
      { host: '127.0.0.1', port: driver.port, method, path, headers: passed, agent: driver.agent },
      (answer) => {
        const chunks: Buffer[] = [];
        let size = 0;
        answer.on('data', (chunk: Buffer) => {
          size += chunk.length;
          if (size > largestAnswer) outgoing.destroy(new Error('the answer of the driver has more than 256 MiB'));
          else chunks.push(chunk);
        });
        answer.on('end', () => {
          clearTimeout(timer);
          done({ status: answer.statusCode ?? 500, headers: answer.headers, body: Buffer.concat(chunks) });
        });
        answer.on('error', giveUp);
        answer.on('aborted', () => giveUp(new Error('the driver broke off its answer')));
      },
    );
    outgoing.on('error', giveUp);
    outgoing.end(body);
  });
}

/** A command of our own, a question where it has no body; its value. Rejects with the driver's words. */
export async function ask<T>(driver: Driver, path: string, body?: object): Promise<T> {
  const headers = { 'content-type': 'application/json; charset=utf-8' };
  const bytes = body ? Buffer.from(JSON.stringify(body)) : Buffer.alloc(0);
  const answer = await forward(driver, body ? 'POST' : 'GET', path, headers, bytes, ownCommandMs);
  const { value } = JSON.parse(answer.body.toString()) as { value: T & { error?: string; message?: string } };
  if (answer.status !== 200) throw new Error(value?.message || value?.error || `the driver answered ${answer.status}`);
  return value;
}
