import type { RemoteEnd } from '../remote-end.ts';

/** Commands of our own: a driver that has not answered one by then is stopped or hangs. */
export const ownCommandMs = 15_000;

/** A browser takes a second or two to start, a minute on a machine that is short of everything. */
export const startLimitMs = 150_000;

/** A command of our own, a question where it has no body; its value. Rejects with the driver's words. */
export async function ask<T>(end: RemoteEnd, path: string, body?: object): Promise<T> {
  const headers = { 'content-type': 'application/json; charset=utf-8' };
  const bytes = body ? Buffer.from(JSON.stringify(body)) : Buffer.alloc(0);
  const answer = await end.send(body ? 'POST' : 'GET', path, headers, bytes, ownCommandMs);
  const { value } = JSON.parse(answer.body.toString()) as { value: T & { error?: string; message?: string } };
  if (answer.status !== 200) throw new Error(value?.message || value?.error || `the driver answered ${answer.status}`);
  return value;
}
