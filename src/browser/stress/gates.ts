import type { DebuggingDoor } from '../debugging-door.ts';
import type { GateListener, RequestGate } from './requests.ts';

/** Sends a command to the browser. */
export type Send = (method: string, params: Record<string, unknown>) => Promise<unknown>;

const reason = 'Failed by a trial';

/** Text of ours is UTF-8, whatever its page was sent as. */
const asSent = (mime: string): string =>
  /^text\/|[/+](?:json|xml)\b/i.test(mime) && !/charset/i.test(mime) ? `${mime}; charset=utf-8` : mime;

/** Headers of an answer of ours: whoever may ask, may read it. */
const headersOf = (mime: string | undefined): { name: string; value: string }[] =>
  mime === undefined
    ? []
    : [
        { name: 'content-type', value: asSent(mime) },
        { name: 'access-control-allow-origin', value: '*' },
      ];

/** A gate of a browser that speaks BiDi itself. */
export async function bidiGate(send: Send): Promise<RequestGate> {
  const { intercept } = (await send('network.addIntercept', { phases: ['beforeRequestSent'] })) as {
    intercept: string;
  };
  return {
    goOn: (request) => send('network.continueRequest', { request }),
    cut: (request) => send('network.failRequest', { request }),
    answer: (request, { status, mime, body = '' }) =>
      send('network.provideResponse', {
        request,
        statusCode: status,
        reasonPhrase: reason,
        headers: headersOf(mime).map(({ name, value }) => ({ name, value: { type: 'string', value } })),
        body: { type: 'string', value: body },
      }),
    close: async () => void (await send('network.removeIntercept', { intercept })),
  };
}

/** Hands BiDi's own events on to whoever listens at a gate. */
export function tellGate(listener: GateListener, method: string, params: unknown): void {
  const { isBlocked, request } = params as {
    isBlocked?: boolean;
    request: { request: string; method: string; url: string };
  };
  if (method === 'network.responseCompleted') listener.answered(request);
  else if (method === 'network.beforeRequestSent' && isBlocked)
    listener.paused({ id: request.request, method: request.method, url: request.url });
}

interface Message {
  id?: number;
  result?: unknown;
  error?: { message: string };
  method?: string;
  params?: {
    requestId: string;
    /** By which the browser's own events tell of it. */
    networkId?: string;
    request: { method: string; url: string; headers?: Record<string, string> };
    responseStatusCode?: number;
    responseErrorReason?: string;
  };
}

/**
 * A gate of a Chromium on this machine, on a debugging connection of its own: its driver carries out nothing else while a
 * command is under way that waits for the very request. All windows and workers of the browser pass through it. When the
 * connection breaks, the browser lets everything go by itself.
 * @param urls patterns of the addresses that pass through it, `*` for any letters
 */
export async function debuggingGate(door: DebuggingDoor, listener: GateListener, urls = ['*']): Promise<RequestGate> {
  const waiting = new Map<number, { done: (result: unknown) => void; fail: (error: Error) => void }>();
  let count = 0;
  const send: Send = (method, params) =>
    new Promise((done, fail) => {
      if (!line.open) return fail(new Error('the debugging connection is closed'));
      waiting.set(++count, { done, fail });
      line.send({ id: count, method, params });
    });
  const hear = (data: Buffer): void => {
    const { id, result, error, method, params } = JSON.parse(data.toString()) as Message;
    if (id !== undefined) {
      const one = waiting.get(id);
      waiting.delete(id);
      if (error) one?.fail(new Error(error.message));
      else one?.done(result);
    } else if (method === 'Fetch.requestPaused' && params) {
      const { requestId, networkId, request } = params;
      if (params.responseStatusCode === undefined && params.responseErrorReason === undefined)
        return listener.paused({ id: requestId, ...request, ...(networkId ? { network: networkId } : {}) });
      listener.answered(request);
      void send('Fetch.continueResponse', { requestId }).catch(() => undefined);
    }
  };
  const closed = (): void => {
    for (const { fail } of waiting.values()) fail(new Error('the debugging connection was closed'));
    waiting.clear();
  };
  const line = await door.browser({ heard: hear, closed });
  const stages = ['Request', ...(listener.wantsAnswers ? ['Response'] : [])];
  await send('Fetch.enable', {
    patterns: urls.flatMap((urlPattern) => stages.map((requestStage) => ({ urlPattern, requestStage }))),
  });
  return {
    goOn: (requestId, headers) =>
      send('Fetch.continueRequest', {
        requestId,
        ...(headers ? { headers: Object.entries(headers).map(([name, value]) => ({ name, value })) } : {}),
      }),
    cut: (requestId) => send('Fetch.failRequest', { requestId, errorReason: 'ConnectionClosed' }),
    answer: (requestId, { status, mime, body = '' }) =>
      send('Fetch.fulfillRequest', {
        requestId,
        responseCode: status,
        responsePhrase: reason,
        responseHeaders: headersOf(mime),
        body: Buffer.from(body).toString('base64'),
      }),
    close: async () => {
      await send('Fetch.disable', {}).catch(() => undefined);
      line.close();
    },
  };
}
