import WebSocket from 'ws';
import { guarded } from '../core/background.ts';

const connectMs = 10_000;
const largestMessage = 256 * 1024 * 1024;

/** A command of the DevTools protocol; without a session it is for whatever the line leads to. */
export interface DebuggingCommand {
  id: number;
  method: string;
  params?: object;
  sessionId?: string;
}

export interface LineListener {
  /** Told of each message, as the browser wrote it. */
  heard(message: Buffer): void;
  /** The line is closed, by whichever side. */
  closed?(): void;
}

/** A connection of our own to a browser or to one of its pages. What is sent over one that is closed is lost. */
export interface DebuggingLine {
  readonly open: boolean;
  send(command: DebuggingCommand): void;
  close(): void;
}

/** Where a browser lets itself be debugged. */
export interface DebuggingDoor {
  /** Product and version: `Chrome/140.0.1.2`. */
  version(): Promise<string>;
  browser(listener: LineListener): Promise<DebuggingLine>;
  page(target: string, listener: LineListener): Promise<DebuggingLine>;
}

/** The door of a browser that listens on a port of this machine. @param address host and port */
export function portDoor(address: string): DebuggingDoor {
  const base = address.replace('localhost', '127.0.0.1');
  // What a browser says of itself it says once.
  let known: Promise<Record<string, string>> | undefined;
  const version = (): Promise<Record<string, string>> =>
    (known ??= fetch(`http://${base}/json/version`, { signal: AbortSignal.timeout(connectMs) }).then(
      (answer) => answer.json() as Promise<Record<string, string>>,
    ));
  return {
    version: async () => (await version()).Browser ?? '',
    browser: async (listener) => {
      const { webSocketDebuggerUrl } = await version();
      return socketLine(`ws://${base}${new URL(webSocketDebuggerUrl ?? '').pathname}`, listener);
    },
    page: (target, listener) => socketLine(`ws://${base}/devtools/page/${target}`, listener),
  };
}

function socketLine(url: string, listener: LineListener): Promise<DebuggingLine> {
  const socket = new WebSocket(url, {
    perMessageDeflate: false,
    maxPayload: largestMessage,
    handshakeTimeout: connectMs,
  });
  const isOpen = (): boolean => socket.readyState === WebSocket.OPEN;
  // A message that makes no sense costs that message only.
  socket.on('message', (data: Buffer) => guarded('reading what a browser told', () => listener.heard(data)));
  socket.on('close', () => listener.closed?.());
  return new Promise((done, fail) => {
    socket.on('error', (error) => {
      socket.terminate();
      fail(error);
    });
    socket.once('open', () =>
      done({
        get open() {
          return isOpen();
        },
        send: (command) => {
          if (isOpen()) socket.send(JSON.stringify(command));
        },
        close: () => socket.terminate(),
      }),
    );
  });
}
