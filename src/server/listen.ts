import { getRequestListener } from '@hono/node-server';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { Duplex } from 'node:stream';
import type { RecordingEndpoint } from '../browser/recording/endpoint.ts';
import { wireError } from '../browser/recording/wire-answer.ts';
import { background, guarded, trouble } from '../core/background.ts';
import { isWire, refusalOf, tokenHandedOver, type Refusal } from './guard.ts';
import type { Settings } from './settings.ts';

/** More connections at once than any number of tests and people have. */
const mostConnections = 4000;
/** A request must have come whole, or go on coming: one that says nothing for so long is given up. */
const longestSilenceMs = 60_000;

/**
 * The one door: everything that comes in is looked at by the guard, then goes to the recording endpoint or to the
 * API and pages. Whatever fails on the way is answered or cut off here, and costs its own connection only.
 */
export function listen(
  settings: Settings,
  fetch: (request: Request) => Response | Promise<Response>,
  endpoint: RecordingEndpoint,
  silenceMs = longestSilenceMs,
): Server {
  const pages = getRequestListener(fetch, {
    errorHandler: (error) => {
      trouble('answering a call', error);
      return new Response(null, { status: 500 });
    },
  });
  const server = createServer((request, response) => {
    request.on('error', () => response.destroy());
    response.on('error', () => request.destroy());
    request.setTimeout(silenceMs, () => {
      if (!request.complete) tooSlow(request, response);
    });
    // Nobody hears a silence that is ours: an answer that takes its time would be cut off with its socket.
    response.on('timeout', () => {});
    guarded('looking at a request', () => {
      const refusal = refusedAt(request, settings);
      if (refusal) return turnAway(request, response, refusal);
      const over = tokenHandedOver(request, settings);
      if (over) {
        response.writeHead(302, { location: over.location, 'set-cookie': over.cookie, 'cache-control': 'no-store' });
        return void response.end();
      }
      const url = request.url ?? '/';
      if (isWire(pathOf(request))) background('a command', endpoint.handle(url.slice(3) || '/', request, response));
      else background('a call', pages(request, response));
    });
  });
  server.on('upgrade', (request: IncomingMessage, socket: Duplex, head: Buffer) => {
    // Whoever opened it may be gone before anything is written.
    socket.on('error', () => socket.destroy());
    guarded('looking at an upgrade', () => {
      const refusal = refusedAt(request, settings);
      if (refusal || !isWire(pathOf(request))) return refuseUpgrade(socket, refusal?.status ?? 404);
      endpoint.upgrade((request.url ?? '').slice(3), request, socket, head);
    });
  });
  server.on('error', (error) => trouble('listening', error));
  server.on('clientError', (error: NodeJS.ErrnoException, socket) => {
    if (!socket.writable || error.code === 'ECONNRESET') return void socket.destroy();
    const status = error.code === 'HPE_HEADER_OVERFLOW' ? '431 Request Header Fields Too Large' : '400 Bad Request';
    socket.end(`HTTP/1.1 ${status}\r\nconnection: close\r\ncontent-length: 0\r\n\r\n`);
  });
  server.maxConnections = mostConnections;
  // A session may take its time to start, an upload its time to come; what stands still is given up above.
  server.requestTimeout = 0;
  server.keepAliveTimeout = 75_000;
  return server;
}

const pathOf = (request: IncomingMessage): string => (request.url ?? '').split('?', 1)[0]!;

/** The token in an address is looked at by itself: it lets in, and is led away from. */
function refusedAt(request: IncomingMessage, settings: Settings): Refusal | undefined {
  const refusal = refusalOf(request, settings);
  return refusal?.status === 401 && tokenHandedOver(request, settings) ? undefined : refusal;
}

const reasons: Record<number, string> = {
  400: 'Bad Request',
  401: 'Unauthorized',
  403: 'Forbidden',
  404: 'Not Found',
  415: 'Unsupported Media Type',
};

/** Closes a socket that wanted to be more than one, with its reason. */
function refuseUpgrade(socket: Duplex, status: number): void {
  socket.end(`HTTP/1.1 ${status} ${reasons[status] ?? 'Refused'}\r\nconnection: close\r\ncontent-length: 0\r\n\r\n`);
}

/** Answers what is not let in; whatever else it was about to send is not waited for. */
function turnAway(request: IncomingMessage, response: ServerResponse, refusal: Refusal): void {
  const { status, code, message } = refusal;
  response.setHeader('connection', 'close');
  if (isWire(pathOf(request))) return wireError(response, status, 'unknown error', message);
  response.writeHead(status, { 'content-type': 'application/json; charset=utf-8', ...ownOnly });
  response.end(JSON.stringify({ error: { code, message } }));
}

/** Nobody else's page may hold what we answer, not even as a picture. */
const ownOnly = { 'cross-origin-resource-policy': 'same-origin', 'x-content-type-options': 'nosniff' };

function tooSlow(request: IncomingMessage, response: ServerResponse): void {
  if (response.headersSent) return void request.destroy();
  response.setHeader('connection', 'close');
  // The answer goes out first.
  response.once('finish', () => request.destroy());
  if (isWire(pathOf(request))) {
    wireError(response, 408, 'unknown error', 'the rest of this command did not come for a minute; send it again');
  } else {
    response.writeHead(408, { 'content-type': 'application/json; charset=utf-8' });
    const message = 'the rest of this request did not come for a minute; nothing was changed, send it again';
    response.end(JSON.stringify({ error: { code: 'too-slow', message } }));
  }
}
