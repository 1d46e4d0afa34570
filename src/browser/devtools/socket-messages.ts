import type { Writable } from 'node:stream';
import * as sockets from 'ws';
import { background } from '../../core/background.ts';
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
  ) => { accept(offers: unknown): unknown }) & { extensionName: string };
  extension: { parse(header: string): Record<string, Record<string, unknown>[]> };
};

/** A head longer than this is none. */
const longestHead = 64 * 1024;

/** One side of a connection to a port: an HTTP head, and after an upgrade the frames of a web socket. */
class Side {
  private head = '';
  private upgraded = false;
  private reader: Writable | undefined;
  private isCompressed = false;
  private over = false;

  /**
   * @param headRead told the head, once it is whole
   * @param opens makes the reader of frames when the first of them comes: how they are written was agreed on by then
   */
  constructor(
    private readonly headRead: (head: string) => void,
    private readonly opens: () => { reader: Writable; isCompressed: boolean },
    private readonly unread: (why: string) => void,
  ) {}

  /** @returns when all of it is read, where that takes a moment: what was compressed */
  push(chunk: Buffer): Promise<void> | undefined {
    if (this.over) return undefined;
    if (this.upgraded) return this.frames(chunk);
    // The head may come in any pieces; what follows its end belongs to the frames.
    const before = this.head.length;
    this.head += chunk.toString('latin1');
    const end = this.head.indexOf('\r\n\r\n', Math.max(0, before - 3));
    if (end < 0) {
      this.over = this.head.length > longestHead;
      return undefined;
    }
    this.head = this.head.slice(0, end + 4);
    // A question and answer of plain HTTP: nothing of it is a step.
    this.upgraded = /^upgrade: *websocket/im.test(this.head);
    this.over = !this.upgraded;
    this.headRead(this.head);
    const rest = chunk.subarray(end + 4 - before);
    return this.upgraded && rest.length ? this.frames(rest) : undefined;
  }

  private frames(chunk: Buffer): Promise<void> | undefined {
    if (!this.reader) {
      const { reader, isCompressed } = this.opens();
      this.reader = reader;
      this.isCompressed = isCompressed;
      reader.on('error', (error) => {
        this.over = true;
        this.unread(error.message);
      });
    }
    const { reader } = this;
    if (this.isCompressed) return new Promise((done) => reader.write(chunk, () => done()));
    // What is not compressed is read before `write` is back.
    reader.write(chunk);
    return undefined;
  }
}

/** Reads both sides of one connection to the debugging port beside whoever passes them on, compressed or not. */
export class SocketMessages {
  private readonly client: Side;
  private readonly browser: Side;
  /** What waits until what came before it is read, from either side: an answer is not read before its question. */
  private readonly waiting: { from: 'client' | 'browser'; chunk: Buffer; at: number }[] = [];
  private reading = false;
  private at = 0;
  /** What browser and client agreed on, as the browser's head says. */
  private agreed: Record<string, unknown>[] | undefined;

  /**
   * @param opened told the path that was asked for
   * @param told of each message, and when the end of it came
   * @param unread told why what follows cannot be read
   */
  constructor(
    opened: (path: string) => void,
    told: (from: 'client' | 'browser', message: Buffer, at: number) => void,
    unread: (why: string) => void = () => undefined,
  ) {
    const side = (from: 'client' | 'browser', headRead: (head: string) => void): Side =>
      new Side(
        headRead,
        () => ({
          reader: this.reader(from === 'client').on('message', (data: Buffer) => told(from, data, this.at)),
          isCompressed: this.agreed !== undefined,
        }),
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

  push(from: 'client' | 'browser', chunk: Buffer, at = 0): void {
    this.waiting.push({ from, chunk, at });
    if (!this.reading) this.next();
  }

  /** All that was pushed is read. */
  async idle(): Promise<void> {
    while (this.reading) await new Promise((done) => setTimeout(done, 5));
  }

  private next(): void {
    for (let one = this.waiting.shift(); one; one = this.waiting.shift()) {
      this.at = one.at;
      const later = this[one.from].push(one.chunk);
      if (!later) continue;
      this.reading = true;
      const after = later.then(() => {
        this.reading = false;
        this.next();
      });
      background('reading a connection', after);
      return;
    }
  }
}
