import { request, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { text } from 'node:stream/consumers';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterEach, expect, it } from 'vitest';
import type { RecordingEndpoint } from '../browser/recording/endpoint.ts';
import { listen } from './listen.ts';
import { readSettings } from './settings.ts';

const silenceMs = 120;
let server: Server;
afterEach(() => new Promise((done) => void server.close(done)));

/** Sends what `write` sends, and gives status and text of the answer. */
async function asked(
  answer: (request: Request) => Promise<Response>,
  body: string | undefined,
  more?: string,
): Promise<{ status: number | undefined; said: string }> {
  server = listen(readSettings({}), answer, {} as RecordingEndpoint, silenceMs);
  await new Promise<void>((done) => void server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  const headers = body === undefined ? {} : { 'content-type': 'application/json', 'content-length': 40 };
  const sent = request({ port, path: '/api/x', method: body === undefined ? 'GET' : 'POST', headers, agent: false });
  const answered = new Promise<IncomingMessage>((done, fail) => void sent.once('response', done).once('error', fail));
  if (body !== undefined) sent.write(body);
  if (more !== undefined) sent.end(more);
  else if (body === undefined) sent.end();
  const response = await answered;
  const said = await text(response);
  sent.destroy();
  return { status: response.statusCode, said };
}

it.each([
  ['without a body', undefined, undefined],
  ['with one', '{"a":"', `${'b'.repeat(32)}"}`],
])('an answer may take longer than any silence, to a request %s', async (_, body, more) => {
  const late = async (asking: Request): Promise<Response> => {
    const told = await asking.text();
    await sleep(4 * silenceMs);
    return new Response(`late, to ${told.length}`);
  };
  expect(await asked(late, body, more)).toEqual({ status: 200, said: `late, to ${body ? 40 : 0}` });
});

it('a request whose rest does not come is given up in words', async () => {
  const { status, said } = await asked(async (asking) => new Response(await asking.text()), '{"a":');
  expect({ status, said }).toMatchObject({ status: 408, said: expect.stringContaining('too-slow') as string });
});
