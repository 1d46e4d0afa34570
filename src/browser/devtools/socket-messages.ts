import type { Writable } from 'node:stream';
import * as sockets from 'ws';
import { longestRead } from './nul-messages.ts';

/** The reader of frames that `ws` itself uses; its types leave it out. */
const { Receiver } = sockets as unknown as {
  Receiver: new (options: { isServer: boolean; maxPayload: number; skipUTF8Validation: boolean }) => Writable;
};

/** A head longer than this is none. */
const longestHead = 64 * 1024;

/** One side of a connection to a port: an HTTP head, and after an upgrade the frames of a web socket. */
class Side {
  private head = '';
  private reader: Writable | undefined;
  private over = false;

  /** @param client what comes from the client is masked, by the protocol */
  constructor(
    client: boolean,
    private readonly headRead: (head: string) => void,
    private readonly told: (message: Buffer) => void,
  ) {
    this.client = client;
  }
  private readonly client: boolean;

  push(chunk: Buffer): void {
    if (this.over) return;
    if (this.reader) return void this.reader.write(chunk);
    // The head may come in any pieces; what follows its end belongs to the frames.
    const before = this.head.length;
    this.head += chunk.toString('latin1');
    const end = this.head.indexOf('\r\n\r\n', Math.max(0, before - 3));
    if (end < 0) this.over = this.head.length > longestHead;
    else {
      this.head = this.head.slice(0, end + 4);
      this.upgrade(chunk.subarray(end + 4 - before));
    }
  }

  private upgrade(rest: Buffer): void {
    this.headRead(this.head);
    // A question and answer of plain HTTP: nothing of it is a step. One that is compressed cannot be read.
    if (!/^upgrade: *websocket/im.test(this.head)) return void (this.over = true);
    this.reader = new Receiver({ isServer: this.client, maxPayload: longestRead, skipUTF8Validation: true });
    this.reader.on('message', (data: Buffer) => this.told(data));
    this.reader.on('error', () => (this.over = true));
    if (rest.length) this.reader.write(rest);
  }
}

/** Reads both sides of one connection to the debugging port beside whoever passes them on. */
export class SocketMessages {
  private readonly client: Side;
  private readonly browser: Side;

  /**
   * @param opened told the path that was asked for
   * @param told of each message
   */
  constructor(opened: (path: string) => void, told: (from: 'client' | 'browser', message: Buffer) => void) {
    this.client = new Side(
      true,
      (head) => opened(/^GET (\S{1,400})/.exec(head)?.[1] ?? ''),
      (message) => told('client', message),
    );
    this.browser = new Side(
      false,
      () => undefined,
      (message) => told('browser', message),
    );
  }

  push(from: 'client' | 'browser', chunk: Buffer): void {
    (from === 'client' ? this.client : this.browser).push(chunk);
  }
}
