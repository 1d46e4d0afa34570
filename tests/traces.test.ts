import { createServer, type Server } from 'node:http';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WebDriver } from '../demo/suite/webdriver.ts';
import type { NetworkEvent, ServiceEvent } from '../src/core/evidence/event.ts';
import { readTraceparent, servedBy } from '../src/core/evidence/trace-context.ts';
import { chromeArguments, eventually, json, ready, startServerProcess, type ServerProcess } from './helpers.ts';

/** A desk that holds seats and tells by OTLP what it did: it is joined to the request that had it do so. */

interface Desk {
  address: string;
  /** Trace contexts that came with requests, by path. */
  heard: Map<string, string | undefined>;
  server: Server;
}
const folder = mkdtempSync(join(tmpdir(), 'iskel-traces-'));
let server: ServerProcess;
let desk: Desk;
let stranger: Desk;
const span = (): string => randomBytes(8).toString('hex');
const nanos = (ms: number): string => `${Math.round(ms * 1000)}000`;

/** What the desk exports of one hold: its own part, and the ledger's inside of it, which fails. */
const traces = (trace: string, parent: string, from: number): object => {
  const own = span();
  const one = (spanId: string, parentSpanId: string, name: string, start: number, end: number, more = {}): object => ({
    traceId: trace,
    spanId,
    parentSpanId,
    name,
    startTimeUnixNano: nanos(start),
    endTimeUnixNano: nanos(end),
    ...more,
  });
  return {
    resourceSpans: [
      {
        resource: { attributes: [{ key: 'service.name', value: { stringValue: 'desk' } }] },
        scopeSpans: [
          {
            spans: [
              one(own, parent, 'POST /api/hold', from, from + 40, {
                kind: 2,
                attributes: [{ key: 'http.response.status_code', value: { intValue: 503 } }],
              }),
              one(span(), own, 'ask ledger', from + 5, from + 35, { kind: 3, status: { code: 2 } }),
            ],
          },
        ],
      },
    ],
  };
};

const exported = (body: object, type = 'application/json'): Promise<Response> =>
  fetch(`${server.address}/api/v1/traces`, {
    method: 'POST',
    headers: { 'content-type': type },
    body: JSON.stringify(body),
  });

async function startDesk(exports: boolean): Promise<Desk> {
  const heard: Desk['heard'] = new Map();
  const http = createServer((request, answer) => {
    const path = request.url ?? '/';
    heard.set(path, request.headers.traceparent as string | undefined);
    answer.setHeader('access-control-allow-origin', '*');
    if (path === '/') {
      answer.setHeader('content-type', 'text/html');
      return answer.end('<title>Desk</title><h1>Lodos Ferries</h1>');
    }
    const sent = readTraceparent(request.headers.traceparent as string | undefined);
    const from = Date.now();
    setTimeout(() => {
      answer.statusCode = 503;
      answer.end('{}');
      if (sent && exports && path === '/api/hold') void exported(traces(sent.trace, sent.span, from));
    }, 40);
  });
  await new Promise<void>((done) => http.listen(0, '127.0.0.1', done));
  return { address: `http://127.0.0.1:${(http.address() as AddressInfo).port}`, heard, server: http };
}

beforeAll(async () => {
  desk = await startDesk(true);
  stranger = await startDesk(false);
  const settings = join(folder, 'iskel.settings.json');
  writeFileSync(settings, JSON.stringify({ traces: [desk.address] }));
  server = await startServerProcess({ env: { ISKEL_SETTINGS: settings } });
});
afterAll(async () => {
  await server?.stop();
  for (const one of [desk, stranger]) one?.server.close();
  rmSync(folder, { recursive: true, force: true });
});

it.each([
  ['chromium', { browserName: 'chrome', 'goog:chromeOptions': { args: chromeArguments } }],
  ['firefox', { browserName: 'firefox' }],
])('what services did is told of the request that had them do it (%s)', async (engine, capabilities) => {
  const driver = await WebDriver.open(`${server.address}/wd`, {
    ...capabilities,
    'iskel:attempt': { run: 'traces', test: { title: `holds a seat in ${engine}` } },
  });
  await driver.open(`${desk.address}/`);
  const script = (address: string): string =>
    `const done = arguments[0]; fetch('${address}/api/hold', { method: 'POST', body: '{}' }).then((a) => done(a.status), (e) => done(String(e)));`;
  expect(await driver.runAsync(script(desk.address))).toBe(503);
  expect(await driver.runAsync(script(stranger.address))).toBe(503);
  await driver.outcome('passed');
  await driver.quit();
  await ready(server.address, driver.attempt);
  expect(readTraceparent(desk.heard.get('/api/hold'))).toBeDefined();
  // Only services that the settings name are sent anything.
  expect(stranger.heard.get('/api/hold')).toBeUndefined();

  const of = async <T>(lane: string): Promise<T[]> =>
    (
      await json<{ events: T[] }>(
        'GET',
        `${server.address}/api/attempts/${driver.attempt}/events?lane=${lane}&limit=500`,
      )
    ).body.events;
  const spans = await eventually(
    () => of<ServiceEvent>('service'),
    (list) => list.length === 2,
  );
  const requests = await of<NetworkEvent>('network');
  const held = requests.find(({ data }) => data.method === 'POST' && data.url.startsWith(desk.address))!;
  const served = servedBy(held, spans);
  expect(served.map(({ data }) => [data.label, data.ok])).toEqual([
    ['desk: POST /api/hold, 503', undefined],
    ['desk: ask ledger', false],
  ]);
  // Within the request, on the attempt's own clock.
  for (const one of served) expect(one.at).toBeGreaterThan(held.at - 30);
  for (const one of requests.filter((other) => other !== held)) expect(servedBy(one, spans)).toEqual([]);
  // An attempt that is analysed anew has them still.
  expect((await of<ServiceEvent>('service')).length).toBe(2);
});

it('takes what it can and says what it does not', async () => {
  const foreign = await exported(traces('ab'.repeat(16), 'cd'.repeat(8), Date.now()));
  expect(await foreign.json()).toMatchObject({ partialSuccess: { rejectedSpans: 2 } });
  expect((await exported({}, 'application/x-protobuf')).status).toBe(415);
  expect((await exported({ spans: [] })).status).toBe(400);
  const gone = await exported(traces(`69736b656c${'0'.repeat(10)}${'f'.repeat(12)}`, 'cd'.repeat(8), Date.now()));
  expect(await gone.json()).toMatchObject({ partialSuccess: { rejectedSpans: 2 } });
});
