import { BidiMapper } from 'chromium-bidi';
import { MapperCdpConnection } from 'chromium-bidi/out/Default/gen/src/cdp/CdpConnection.js';
import WebSocket from 'ws';
import { guarded } from '../../core/background.ts';
import type { BidiLink, BidiListener } from '../bidi-link.ts';
import { clock } from '../recording/clock.ts';

const connectMs = 10_000;
const largestMessage = 256 * 1024 * 1024;

/**
 * What would change the browser for the client that drives it: we watch beside it, so these are answered here and
 * never reach the browser.
 */
const notOurs =
  /^(?:Security\.|Emulation\.|Browser\.setDownloadBehavior|Fetch\.|Network\.set|Page\.set(?!Lifecycle)|DeviceAccess\.|Preload\.|Storage\.)/;

/** Sees targets as the browser tells of them. */
export type TargetSeen = (
  session: string,
  target: { targetId: string; browserContextId?: string; type: string },
) => void;

/** A connection of our own to the browser, beside the client's. */
interface Transport {
  setOnMessage(told: (json: string) => void): void;
  sendMessage(json: string): void;
  close(): void;
}

/** Speaks BiDi with a browser that is driven by somebody else over DevTools: by a connection of its own, which the client never sees. */
export async function mapperLink(
  address: string,
  onEvent: BidiListener,
  seen: TargetSeen,
  onClose: () => void,
): Promise<BidiLink> {
  const socket = await open(address);
  const waiting = new Map<number, { done: (result: never) => void; fail: (error: Error) => void }>();
  let count = 0;
  socket.on('close', () => {
    for (const { fail } of waiting.values()) fail(new Error('the browser is gone'));
    waiting.clear();
    onClose();
  });
  const connection = new MapperCdpConnection(transportOver(socket, seen));
  const browser = await connection.createBrowserSession();
  let toMapper: (message: never) => void = () => undefined;
  const heard = (message: Record<string, unknown>): void => {
    if (typeof message.method === 'string') return onEvent(message.method, message.params as never, clock());
    const one = waiting.get(message.id as number);
    waiting.delete(message.id as number);
    if (message.type === 'error') one?.fail(new Error(`${message.error as string}: ${message.message as string}`));
    else one?.done(message.result as never);
  };
  await BidiMapper.BidiServer.createAndStart(
    {
      setOnMessage: (told) => (toMapper = told as typeof toMapper),
      sendMessage: (message) => guarded('hearing of a browser', () => heard(message as Record<string, unknown>)),
      close: () => socket.close(),
    },
    connection,
    browser,
    'no tab of ours',
  );
  const send = <R>(method: string, params: Record<string, unknown>): Promise<R> =>
    new Promise((done, fail) => {
      if (socket.readyState !== WebSocket.OPEN) return fail(new Error('the browser is gone'));
      const id = ++count;
      waiting.set(id, { done, fail });
      toMapper({ id, method, params } as never);
    });
  // Dialogs and files are the client's to answer.
  await send('session.new', {
    capabilities: { alwaysMatch: { unhandledPromptBehavior: { default: 'ignore', file: 'ignore' } } },
  });
  return { send, catchUp: () => undefined, close: () => socket.close() };
}

function open(address: string): Promise<WebSocket> {
  const socket = new WebSocket(address, {
    perMessageDeflate: false,
    maxPayload: largestMessage,
    handshakeTimeout: connectMs,
  });
  return new Promise((done, fail) => {
    socket.once('open', () => done(socket));
    socket.on('error', (error) => {
      socket.terminate();
      fail(error);
    });
  });
}

function transportOver(socket: WebSocket, seen: TargetSeen): Transport {
  let told: (json: string) => void = () => undefined;
  socket.on('message', (data: Buffer) => {
    const text = data.toString();
    if (text.startsWith('{"method":"Target.attachedToTarget"'))
      guarded('hearing of a target', () => {
        const { params } = JSON.parse(text) as {
          params: { sessionId: string; targetInfo: { targetId: string; browserContextId?: string; type: string } };
        };
        seen(params.sessionId, params.targetInfo);
      });
    guarded('hearing of a browser', () => told(text));
  });
  return {
    setOnMessage: (next) => (told = next),
    sendMessage: (json) => {
      const { id, method, sessionId } = JSON.parse(json) as { id: number; method: string; sessionId?: string };
      if (notOurs.test(method))
        return void setImmediate(() => told(JSON.stringify({ id, result: {}, ...(sessionId ? { sessionId } : {}) })));
      if (socket.readyState === WebSocket.OPEN) socket.send(json);
    },
    close: () => socket.close(),
  };
}
