import { getRequestListener } from '@hono/node-server';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import pino, { type Logger } from 'pino';
import { DriverPool } from '../browser/driver-pool.ts';
import { findEngines } from '../browser/engines.ts';
import { Owner } from '../browser/owner.ts';
import { RecordingEndpoint } from '../browser/recording/endpoint.ts';
import type { Services } from './api/context.ts';
import { makeApp } from './app.ts';
import { Changes } from './changes.ts';
import { DataLock } from './data-lock.ts';
import { refusalOf } from './guard.ts';
import { AnalysisJobs } from './jobs/analysis.ts';
import { Contrasts } from './jobs/contrasts.ts';
import { IntakeJobs } from './jobs/intakes.ts';
import { RecordingSink } from './jobs/recording-sink.ts';
import { Streamed } from './jobs/streamed.ts';
import { SeriesJobs } from './jobs/series.ts';
import type { Settings } from './settings.ts';
import { Store } from './store/store.ts';

const web = fileURLToPath(new URL('../../dist/web', import.meta.url));
const version = (
  JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as { version: string }
).version;

export interface RunningServer {
  address: string;
  services: Services;
  close(): Promise<void>;
}

/** Starts Iskel on its data folder; what an earlier server left unfinished is put in order first. */
export async function startServer(settings: Settings, log: Logger = pino({ level: 'warn' })): Promise<RunningServer> {
  const lock = DataLock.take(settings.data);
  const owner = await Owner.start(settings.data);
  const finding = findEngines(owner);
  const store = new Store(settings.data);
  const changes = new Changes();
  const analysis = new AnalysisJobs(store, changes, log);
  const contrasts = new Contrasts(settings.data);
  const engines = await finding;
  const pools = new Map(engines.map((engine) => [engine.name, new DriverPool(engine, owner)]));
  const sink = new RecordingSink(store, analysis, changes);
  const intakes = new IntakeJobs(store, changes, owner, log);
  const streaming = new Set(store.attempts.streaming());
  for (const id of store.attempts.inState('recording').filter((one) => !streaming.has(one)))
    sink.end(id, store.events.lastTime(id), 'Iskel was stopped while it recorded this');
  analysis.resume();
  const series = new SeriesJobs(store, analysis, changes, pools.get('chromium'), log);
  const endpoint = new RecordingEndpoint({ pools, sink, anyLaunch: settings.anyLaunch, idleMs: settings.idleMs });
  const streamed = new Streamed(store, sink, changes);
  const services: Services = {
    version,
    engines,
    store,
    owner,
    changes,
    analysis,
    contrasts,
    series,
    intakes,
    streamed,
    sink,
    log,
  };
  const server = listen(settings, makeApp(services, web).fetch, endpoint);
  await new Promise<void>((done, fail) => {
    server.once('error', fail);
    server.listen(settings.port, settings.host, done);
  });
  void pools
    .get('chromium')
    ?.ready()
    .catch((error: Error) => log.warn(error.message));
  const port = (server.address() as { port: number }).port;

  let closing: Promise<void> | undefined;
  const close = (): Promise<void> =>
    (closing ??= (async () => {
      server.close();
      await endpoint.close('Iskel was stopped while it recorded this');
      await series.close();
      await Promise.all([...pools.values()].map((pool) => pool.close()));
      await owner.close();
      streamed.close();
      await intakes.close();
      await analysis.close();
      await contrasts.close();
      server.closeAllConnections();
      store.close();
      lock.release();
    })());
  return {
    address: `http://${settings.host.includes(':') ? `[${settings.host}]` : settings.host}:${port}`,
    services,
    close,
  };
}

function listen(
  settings: Settings,
  fetch: (request: Request) => Response | Promise<Response>,
  endpoint: RecordingEndpoint,
): Server {
  const pages = getRequestListener(fetch);
  const refuse = (request: IncomingMessage, response: ServerResponse): boolean => {
    const refusal = refusalOf(request, settings);
    if (!refusal) return false;
    const { status, code, message } = refusal;
    const wire = request.url?.startsWith('/wd');
    response.writeHead(status, { 'content-type': 'application/json; charset=utf-8' });
    response.end(
      JSON.stringify(
        wire ? { value: { error: 'unknown error', message, stacktrace: '' } } : { error: { code, message } },
      ),
    );
    return true;
  };
  const server = createServer((request, response) => {
    if (refuse(request, response)) return;
    const url = request.url ?? '/';
    if (url === '/wd' || url.startsWith('/wd/')) void endpoint.handle(url.slice(3) || '/', request, response);
    else {
      keepToken(request, response, settings);
      void pages(request, response);
    }
  });
  server.on('upgrade', (request: IncomingMessage, socket, head: Buffer) => {
    const url = request.url ?? '';
    if (refusalOf(request, settings) || !url.startsWith('/wd/'))
      return void socket.end('HTTP/1.1 403 Forbidden\r\nconnection: close\r\n\r\n');
    endpoint.upgrade(url.slice(3), request, socket, head);
  });
  // A session may take its time to start; a silent socket is no reason to cut it.
  server.requestTimeout = 0;
  server.keepAliveTimeout = 75_000;
  return server;
}

/** Once opened with ?token=…, the browser keeps the token, so that pasted addresses work. */
function keepToken(request: IncomingMessage, response: ServerResponse, settings: Settings): void {
  if (!settings.token || !request.url?.includes('token=')) return;
  response.setHeader(
    'set-cookie',
    `iskel_token=${encodeURIComponent(settings.token)}; HttpOnly; SameSite=Strict; Path=/`,
  );
}
