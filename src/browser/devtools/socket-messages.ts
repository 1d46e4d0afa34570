import type { Writable } from 'node:stream';
import * as sockets from 'ws';
import { longestRead } from './nul-messages.ts';

/** The readers of frames that `ws` itself uses; its types leave them out. */
const { Receiver, PerMessageDeflate, extension } = sockets as unknown as {
  Receiver: new (options: {
    isServer: boolean;
    maxPayload: number;
    skipUTF8Validation: boolean;
    extensions?: Record<string, unknown>;
  }) => Writable;
  PerMessageDeflate: (new (
    options: object,
    isServer: boolean,
    maxPayload: number,
  ) => {
    accept(offers: unknown): unknown;
    cleanup(): void;
  }) & { extensionName: string };
  extension: { parse(header: string): Record<string, Record<string, unknown>[]> };
};

/** A head longer than this is none. */
const longestHead = 64 * 1024;

/** One side of a connection to a port: an HTTP head, and after an upgrade the frames of a web socket. */
class Side {
  private head = '';
  private upgraded = false;
  private reader: Writable | undefined;
  private over = false;

  /**
   * @param headRead told the head, once it is whole
   * @param opens makes the reader of frames when the first of them comes: how they are written was agreed on by then
   */
  constructor(
    private readonly headRead: (head: string) => void,
    private readonly opens: () => Writable,
    private readonly unread: (why: string) => void,
  ) {}

  push(chunk: Buffer): void {
    if (this.over) return;
    if (this.upgraded) return this.frames(chunk);
    // The head may come in any pieces; what follows its end belongs to the frames.
    const before = this.head.length;
    this.head += chunk.toString('latin1');
    const end = this.head.indexOf('\r\n\r\n', Math.max(0, before - 3));
    if (end < 0) {
      this.over = this.head.length > longestHead;
      return;
    }
    this.head = this.head.slice(0, end + 4);
    // A question and answer of plain HTTP: nothing of it is a step.
    this.upgraded = /^upgrade: *websocket/im.test(this.head);
    this.over = !this.upgraded;
    this.headRead(this.head);
    const rest = chunk.subarray(end + 4 - before);
    if (this.upgraded && rest.length) this.frames(rest);
  }

  private frames(chunk: Buffer): void {
    if (!this.reader) {
      this.reader = this.opens();
      this.reader.on('error', (error) => {
        this.over = true;
        this.unread(error.message);
      });
    }
    this.reader.write(chunk);
  }
}

/** Reads both sides of one connection to the debugging port beside whoever passes them on, compressed or not. */
export class SocketMessages {
  private readonly client: Side;
  private readonly browser: Side;
  /** What browser and client agreed on, as the browser's head says. */
  private agreed: Record<string, unknown>[] | undefined;

  /**
   * @param opened told the path that was asked for
   * @param told of each message
   * @param unread told why what follows cannot be read
   */
  constructor(
    opened: (path: string) => void,
    told: (from: 'client' | 'browser', message: Buffer) => void,
    unread: (why: string) => void = () => undefined,
  ) {
    const side = (from: 'client' | 'browser', headRead: (head: string) => void): Side =>
      new Side(
        headRead,
        () => this.reader(from === 'client').on('message', (data: Buffer) => told(from, data)),
        unread,
      );
    this.client = side('client', (head) => opened(/^GET (\S{1,400})/.exec(head)?.[1] ?? ''));
    this.browser = side('browser', (head) => this.agrees(head, unread));
  }

  private agrees(head: string, unread: (why: string) => void): void {
    const header = /^sec-websocket-extensions: *(.+?)\s*$/im.exec(head)?.[1];
    if (header === undefined) return;
    try {
      const { [PerMessageDeflate.extensionName]: deflate, ...others } = extension.parse(header);
      this.agreed = deflate;
      if (Object.keys(others).length) unread(`its socket agreed on ${Object.keys(others).join(', ')}`);
    } catch (error) {
      unread((error as Error).message);
    }
  }

  /** @param ofClient what comes from the client is masked, by the protocol */
  private reader(ofClient: boolean): Writable {
    const extensions: Record<string, unknown> = {};
    if (this.agreed) {
      const deflate = new PerMessageDeflate({}, ofClient, longestRead);
      // Each side was told what is agreed on: what it would have taken of an offer.
      deflate.accept(structuredClone(this.agreed));
      extensions[PerMessageDeflate.extensionName] = deflate;
    }
    return new Receiver({ isServer: ofClient, maxPayload: longestRead, skipUTF8Validation: true, extensions });
  }

  push(from: 'client' | 'browser', chunk: Buffer): void {
    (from === 'client' ? this.client : this.browser).push(chunk);
  }
}
