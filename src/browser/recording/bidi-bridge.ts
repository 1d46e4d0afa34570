import type { IncomingMessage } from 'node:http';
import type { Duplex } from 'node:stream';
import WebSocket, { WebSocketServer, type RawData } from 'ws';
import { guarded } from '../../core/background.ts';
import type { SocketSide } from '../remote-end.ts';
import { refusesMessage } from './reach.ts';

const largestMessage = 256 * 1024 * 1024;
/** Of what one side has not taken yet; beyond it the other is held back. */
const mostWaiting = 8 * 1024 * 1024;

const door = new WebSocketServer({ noServer: true, perMessageDeflate: false, maxPayload: largestMessage });

export interface Bridge {
  /** The other side: the session's own socket. */
  connect: () => SocketSide;
  /** Lets every message pass, whatever it reaches. */
  anyLaunch: boolean;
  /** The client said something. */
  heard: () => void;
}

/** Joins a client's own BiDi connection to the driver's: every message passes as it is, both ways. */
export function bridgeBidi(request: IncomingMessage, socket: Duplex, head: Buffer, bridge: Bridge): void {
  door.handleUpgrade(request, socket, head, (client) => guarded('joining a BiDi socket', () => join(client, bridge)));
}

function join(client: WebSocket, { connect, anyLaunch, heard }: Bridge): void {
  const driver = connect();
  const early: { data: RawData; binary: boolean }[] = [];
  const endBoth = (): void => {
    client.terminate();
    driver.terminate();
  };
  const toDriver = (data: RawData, binary: boolean): void => {
    heard();
    const refused = anyLaunch || binary ? undefined : refusesMessage(textOf(data));
    if (refused) {
      const { id, message } = refused;
      return client.send(JSON.stringify({ type: 'error', id, error: 'invalid argument', message, stacktrace: '' }));
    }
    pass(driver, client, data, binary);
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
  driver.on('message', (data, binary) => guarded('passing a message back', () => pass(client, driver, data, binary)));
  client.on('close', () => driver.close());
  driver.on('close', () => client.close());
  client.on('error', endBoth);
  driver.on('error', endBoth);
}

const textOf = (data: RawData): string =>
  Array.isArray(data) ? Buffer.concat(data).toString() : Buffer.from(data as Buffer).toString();

/** Sends on; who sends faster than the other takes is held back meanwhile. */
function pass(to: SocketSide, from: SocketSide, data: RawData, binary: boolean): void {
  if (to.readyState !== WebSocket.OPEN) return;
  to.send(data, { binary }, () => {
    if (from.isPaused && to.bufferedAmount < mostWaiting) from.resume();
  });
  if (to.bufferedAmount > mostWaiting) from.pause();
}
