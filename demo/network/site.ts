import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { WebSocketServer } from 'ws';
import { clock } from '../../src/browser/recording/clock.ts';

/** What this site itself saw of one request, wall-clock ms. */
export interface Served {
  method: string;
  path: string;
  /** When the head of the answer went out; absent while it is held. */
  head?: number;
  /** When the last byte of the body went out, or the client was gone. */
  end?: number;
  status?: number;
  /** The client left before the end. */
  left?: boolean;
}

export interface NetworkSite {
  address: string;
  /** In the order in which the requests came in. */
  served: readonly Served[];
  close(): Promise<void>;
}

/** A thing that can happen to a request, and the part of a page that makes it happen. */
export interface Situation {
  name: string;
  /** The path whose exchange is looked at. */
  path: string;
  method: string;
  /** Run in the page; may use `await`. */
  script: string;
}

/** Every one of them is a call at the ticket office of Lodos Ferries. */
export const situations: readonly Situation[] = [
  {
    name: 'body nobody reads',
    path: '/unread',
    method: 'GET',
    script: `const a = await fetch('/unread'); return a.status;`,
  },
  {
    name: '204 without a body',
    path: '/no-content',
    method: 'POST',
    script: `await fetch('/no-content', { method: 'POST', body: '{"seat":"2A"}', headers: { 'content-type': 'application/json' } });`,
  },
  { name: 'HEAD', path: '/head', method: 'HEAD', script: `await fetch('/head', { method: 'HEAD' });` },
  { name: 'chain of redirects', path: '/hop/1', method: 'GET', script: `await (await fetch('/hop/1')).text();` },
  {
    name: 'from the cache',
    path: '/cached',
    method: 'GET',
    script: `await (await fetch('/cached')).text(); await new Promise((done) => setTimeout(done, 120)); await (await fetch('/cached')).text();`,
  },
  {
    name: 'aborted by the page',
    path: '/slow',
    method: 'GET',
    script: `const stop = new AbortController(); setTimeout(() => stop.abort(), 150); await fetch('/slow', { signal: stop.signal }).catch(() => {});`,
  },
  {
    name: 'connection refused',
    path: '/refused',
    method: 'GET',
    script: `await fetch(REFUSED + '/refused').catch(() => {});`,
  },
  {
    name: 'through a service worker',
    path: '/worker/fare',
    method: 'GET',
    script: `await navigator.serviceWorker.register('/worker/sw.js'); const frame = document.createElement('iframe'); const ready = await navigator.serviceWorker.getRegistration('/worker/'); while (!ready.active || ready.active.state !== 'activated') await new Promise((done) => setTimeout(done, 20)); frame.src = '/worker/page'; document.body.append(frame); await new Promise((done) => (frame.onload = done)); await (await frame.contentWindow.fetch('/worker/fare')).text();`,
  },
  { name: 'streamed in pieces', path: '/streamed', method: 'GET', script: `await (await fetch('/streamed')).text();` },
  {
    name: 'event source',
    path: '/events',
    method: 'GET',
    script: `const s = new EventSource('/events'); await new Promise((done) => { let n = 0; s.onmessage = () => { if (++n === 3) { s.close(); done(); } }; });`,
  },
  {
    name: 'web socket',
    path: '/socket',
    method: 'GET',
    script: `const s = new WebSocket(location.origin.replace('http', 'ws') + '/socket'); await new Promise((done) => { s.onmessage = () => s.close(); s.onclose = done; });`,
  },
  {
    name: 'beacon',
    path: '/beacon',
    method: 'POST',
    script: `navigator.sendBeacon('/beacon', 'boarding pass shown'); await new Promise((done) => setTimeout(done, 150));`,
  },
];

const worker = `self.addEventListener('install', () => self.skipWaiting());
self.addEventListener('activate', (e) => e.waitUntil(self.clients.claim()));
self.addEventListener('fetch', (e) => { if (new URL(e.request.url).pathname === '/worker/fare') e.respondWith(new Response('{"fare":412}', { status: 203, headers: { 'content-type': 'application/json' } })); });`;

const page = (body: string): string =>
  `<!doctype html><html lang="en"><head><title>Lodos Ferries: ticket office</title><link rel="icon" href="data:,"></head><body><h1>Ticket office</h1>${body}</body></html>`;

/** Starts a site on a free port of the loopback that does to requests whatever can be done to them, and keeps a log. */
export async function startNetworkSite(): Promise<NetworkSite> {
  const served: Served[] = [];
  const answer = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const path = new URL(request.url ?? '/', 'http://ferry.test').pathname;
    const line: Served = { method: request.method ?? 'GET', path };
    served.push(line);
    response.on('close', () => {
      line.end ??= clock();
      if (!response.writableFinished) line.left = true;
    });
    const head = (status: number, headers: Record<string, string> = {}): void => {
      response.writeHead(status, { 'cache-control': 'no-store', ...headers });
      line.head = clock();
      response.flushHeaders();
      line.status = status;
    };
    const end = (text = ''): void => {
      line.end = clock();
      response.end(text);
    };
    request.resume();
    switch (path) {
      case '/unread':
        // More than any buffer takes: the end never comes to a page that does not read.
        await sleep(80);
        head(503, { 'content-type': 'application/json' });
        response.write(JSON.stringify({ error: 'the office is closed' }).padEnd(8_000_000));
        return;
      case '/no-content':
        await sleep(60);
        head(204);
        return end();
      case '/head':
        await sleep(60);
        head(200, { 'content-length': '4000' });
        return end();
      case '/hop/1':
      case '/hop/2':
        await sleep(50);
        head(302, { location: path === '/hop/1' ? '/hop/2' : '/hop/3' });
        return end();
      case '/cached':
        await sleep(60);
        head(200, { 'cache-control': 'max-age=600', 'content-type': 'text/plain' });
        return end('timetable of the summer');
      case '/slow':
        await sleep(3000);
        if (response.destroyed) return;
        head(200);
        return end('late');
      case '/streamed':
        head(200, { 'content-type': 'text/plain' });
        for (let i = 0; i < 4; i++) {
          response.write(`sailing ${i}\n`);
          await sleep(100);
        }
        return end('all of them');
      case '/events':
        head(200, { 'content-type': 'text/event-stream' });
        for (let i = 0; i < 3; i++) {
          await sleep(80);
          line.end = clock();
          response.write(`data: ${i}\n\n`);
        }
        return;
      case '/beacon':
        head(204);
        return end();
      case '/worker/sw.js':
        head(200, { 'content-type': 'text/javascript' });
        return end(worker);
      default:
        head(200, { 'content-type': 'text/html' });
        return end(page(path === '/worker/page' ? '<p>Fare</p>' : ''));
    }
  };
  const server = createServer((request, response) => void answer(request, response).catch(() => response.destroy()));
  const sockets = new WebSocketServer({ noServer: true });
  server.on('upgrade', (request, socket, first) => {
    const line: Served = { method: 'GET', path: request.url ?? '', head: clock(), status: 101 };
    served.push(line);
    socket.on('error', () => socket.destroy());
    sockets.handleUpgrade(request, socket, first, (client) => {
      client.on('close', () => (line.end = clock()));
      client.send('now boarding');
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as { port: number };
  return {
    address: `http://127.0.0.1:${port}`,
    served,
    close: async () => {
      for (const client of sockets.clients) client.terminate();
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    },
  };
}
