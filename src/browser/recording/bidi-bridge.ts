import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import WebSocket, { WebSocketServer, type RawData } from 'ws';
import { background, guarded } from '../../core/background.ts';
import type { SocketSide } from '../remote-end.ts';
import type { BidiSteps } from './bidi-steps.ts';
import { clock } from './clock.ts';
import { parseJson } from './command-body.ts';
import { refusesMessage } from './reach.ts';

/** As large as a command may be. */
const largestMessage = 64 * 1024 * 1024;
/** Of a connection that has no session yet, and of the one it begins. */
const largestAtFirst = 16 * 1024 * 1024;
/** Connections without a session at once. */
const mostWithoutSession = 20;
/** Of what one side has not taken yet; beyond it the other is held back. */
const mostWaiting = 8 * 1024 * 1024;

const options = { noServer: true, perMessageDeflate: false };
const door = new WebSocketServer({ ...options, maxPayload: largestMessage });
const firstDoor = new WebSocketServer({ ...options, maxPayload: largestAtFirst });

export interface Bridge {
  /** The other side: the session's own socket. */
  connect: () => SocketSide;
  /** Lets every message pass, whatever it reaches. */
  anyLaunch: boolean;
  /** The client said something. */
  heard: () => void;
  /** Takes down what passes, once it has passed. */
  steps: BidiSteps;
  /** The client asks for the session to be ended: done here, so that its recording is closed first. */
  ends: () => Promise<void>;
}

/**
 * Opens a connection that has no session yet: few at once, and with small messages, since anybody may open one.
 * @param opened is given the connection, and what to call once it has a session
 */
export function openFirstDoor(
  request: IncomingMessage,
  socket: Duplex,
  head: Buffer,
  opened: (client: WebSocket, begun: () => void) => void,
): void {
  if (withoutSession >= mostWithoutSession) {
    socket.end('HTTP/1.1 503 Service Unavailable\r\nconnection: close\r\ncontent-length: 0\r\n\r\n');
    return;
  }
  withoutSession++;
  let counted = true;
  const begun = (): void => {
    if (counted) withoutSession--;
    counted = false;
  };
  socket.once('close', begun);
  firstDoor.handleUpgrade(request, socket, head, (client) =>
    guarded('joining a BiDi socket', () => opened(client, begun)),
  );
}
let withoutSession = 0;

/** Opens a client's BiDi connection. */
export function openDoor(
  request: IncomingMessage,
  socket: Duplex,
  head: Buffer,
  opened: (client: WebSocket) => void,
): void {
  door.handleUpgrade(request, socket, head, (client) => guarded('joining a BiDi socket', () => opened(client)));
}

/** Joins a client's own BiDi connection to the driver's: every message passes as it is, both ways. */
export function joinBidi(client: WebSocket, { connect, anyLaunch, heard, steps, ends }: Bridge): void {
  const driver = connect();
  const early: { data: RawData; binary: boolean }[] = [];
  const endBoth = (): void => {
    client.terminate();
    driver.terminate();
  };
  const toDriver = (data: RawData, binary: boolean): void => {
    heard();
    // The protocol knows texts only, and what is not read may not pass.
    const said = binary ? '' : textOf(data);
    const refused = binary ? noText : anyLaunch ? undefined : refusesMessage(said);
    if (refused) {
      const { id, message } = refused;
      return client.send(JSON.stringify({ type: 'error', id, error: 'invalid argument', message, stacktrace: '' }));
    }
    const ending = said.length < 1000 ? endOf(said) : undefined;
    if (ending !== undefined) {
      const answered = ends().then(() => {
        client.send(JSON.stringify({ type: 'success', id: ending, result: {} }));
        client.close();
      });
      return background('ending a session', answered);
    }
    const at = clock();
    passMessage(driver, client, data, binary);
    steps.client(said, at);
  };
  client.on('message', (data, binary) => {
    if (driver.readyState === WebSocket.OPEN) guarded('passing a message on', () => toDriver(data, binary));
    else {
      early.push({ data, binary });
      client.pause();
    }
  });
  driver.on('open', () => {
    for (const { data, binary } of early.splice(0)) guarded('passing a message on', () => toDriver(data, binary));
    client.resume();
  });
  driver.on('message', (data, binary) =>
    guarded('passing a message back', () => {
      const at = clock();
      passMessage(client, driver, data, binary);
      if (!binary) steps.driver(textOf(data), at);
    }),
  );
  client.on('close', () => {
    steps.end(clock());
    driver.close();
  });
  driver.on('close', () => client.close());
  client.on('error', endBoth);
  driver.on('error', endBoth);
}

const noText = { id: null, message: 'a message is a text, not bytes' };

/** The number of a command that ends the session; nothing for any other. */
function endOf(said: string): number | undefined {
  if (!said.includes('session.end')) return undefined;
  const { id, method } = (parseJson(Buffer.from(said)) ?? {}) as { id?: unknown; method?: unknown };
  return method === 'session.end' && typeof id === 'number' ? id : undefined;
}

const textOf = (data: RawData): string =>
  Array.isArray(data) ? Buffer.concat(data).toString() : Buffer.from(data as Buffer).toString();

/** Sends on; who sends faster than the other takes is held back meanwhile. */
export function passMessage(to: SocketSide, from: SocketSide, data: RawData, binary: boolean): void {
  if (to.readyState !== WebSocket.OPEN) return;
  to.send(data, { binary }, () => {
    if (from.isPaused && to.bufferedAmount < mostWaiting) from.resume();
  });
  if (to.bufferedAmount > mostWaiting) from.pause();
}
