import WebSocket from 'ws';
import { guarded, trouble } from '../core/background.ts';
import type { BidiLink, BidiListener } from './bidi-link.ts';
import { clock } from './recording/clock.ts';

type Params = Record<string, unknown>;

/**
 * Events that may wait a moment. They come in bursts, most of all while a page loads, and reading
 * them at once would hold up the answer to the command that is loading it.
 */
const patient =
  /^\{(?:"type":"event",)?"method":"(network\.|goog:cdp\.|log\.|script\.message|browsingContext\.(navigation|domContentLoaded|load))/;
const patienceMs = 12;
/** A request that stands still until somebody lets it go cannot wait. */
const standing = '"isBlocked":true';
/** A browser that has not answered a command of ours by then hangs. */
const answerMs = 30_000;
const connectMs = 10_000;

interface Waiting {
  done: (result: never) => void;
  fail: (error: Error) => void;
  timer: NodeJS.Timeout;
}

/** What a browser answered to a command that it refused. */
export class BidiRefused extends Error {
  constructor(
    readonly code: string,
    readonly said: string,
    readonly stacktrace: string,
  ) {
    super(`${code}: ${said}`);
  }
}

/** Takes messages to a browser, until it is closed. */
export interface BidiWire {
  readonly open: boolean;
  send(text: string, failed: (error: Error) => void): void;
  close(): void;
}

/** Our side of a WebDriver BiDi connection: commands answered by id, events handed on as they come. */
export class Bidi implements BidiLink {
  private readonly waiting = new Map<number, Waiting>();

  /** @param count the number before that of the first command: others may have numbers of their own on the same wire */
  constructor(
    private readonly wire: BidiWire,
    private readonly onEvent: BidiListener,
    private count = 0,
  ) {}

  static connect(
    url: string,
    onEvent: BidiListener,
    onClose: () => void,
    headers: Record<string, string> = {},
  ): Promise<Bidi> {
    const socket = new WebSocket(url, {
      headers,
      perMessageDeflate: false,
      maxPayload: 256 * 1024 * 1024,
      handshakeTimeout: connectMs,
    });
    const bidi = new Bidi(
      {
        get open() {
          return socket.readyState === WebSocket.OPEN;
        },
        send: (text, failed) => socket.send(text, (error) => error && failed(error)),
        close: () => socket.terminate(),
      },
      onEvent,
    );
    socket.on('message', (data: Buffer) => bidi.take(data, clock()));
    socket.on('error', () => socket.terminate());
    socket.on('close', () => {
      bidi.over();
      guarded('hearing that a browser is gone', onClose);
    });
    return new Promise((done, fail) => {
      socket.once('open', () => done(bidi));
      socket.once('error', fail);
      socket.once('close', () => fail(new Error('the BiDi connection was closed')));
    });
  }

  /** A message of the browser. @param heard when it came */
  take(data: Buffer, heard: number): void {
    if (!patient.test(data.toString('latin1', 0, 64))) return this.hear(data, heard);
    if (data.includes(standing)) {
      this.catchUp();
      return this.hear(data, heard);
    }
    this.backlog.push({ data, heard });
    this.timer ??= setTimeout(() => this.catchUp(), patienceMs);
  }

  /** The wire is closed: nothing will be answered. */
  over(): void {
    for (const id of [...this.waiting.keys()]) this.answered(id)?.fail(new Error('the BiDi connection was closed'));
  }

  /** Sends a command; rejects with the remote end's own error and message. */
  send<R = Params>(method: string, params: Params): Promise<R> {
    if (!this.wire.open) return Promise.reject(new Error('the BiDi connection is closed'));
    const id = ++this.count;
    return new Promise((done, fail) => {
      const timer = setTimeout(() => {
        this.answered(id)?.fail(new Error(`the browser did not answer ${method} for ${answerMs / 1000} s`));
      }, answerMs);
      timer.unref();
      this.waiting.set(id, { done, fail, timer });
      this.wire.send(JSON.stringify({ id, method, params }), (error) => this.answered(id)?.fail(error));
    });
  }

  private answered(id: number): Waiting | undefined {
    const one = this.waiting.get(id);
    clearTimeout(one?.timer);
    this.waiting.delete(id);
    return one;
  }

  /** Reads what was put off. */
  catchUp(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    for (const { data, heard } of this.backlog.splice(0)) this.hear(data, heard);
  }
  private readonly backlog: { data: Buffer; heard: number }[] = [];
  private timer: NodeJS.Timeout | undefined;

  close(): void {
    this.catchUp();
    this.wire.close();
  }

  /** A message that makes no sense, or that whoever hears it stumbles over, costs that message only. */
  private hear(data: Buffer, heard: number): void {
    try {
      this.read(data, heard);
    } catch (error) {
      trouble('reading what a browser told', error);
    }
  }

  private read(data: Buffer, heard: number): void {
    const message = JSON.parse(data.toString()) as {
      id?: number;
      type?: string;
      result?: never;
      error?: string;
      message?: string;
      stacktrace?: string;
      method?: string;
      params?: never;
    };
    if (message.id === undefined) {
      if (message.method) this.onEvent(message.method, message.params as never, heard);
      return;
    }
    const waiting = this.answered(message.id);
    if (message.type === 'error')
      waiting?.fail(new BidiRefused(String(message.error), String(message.message), message.stacktrace ?? ''));
    else waiting?.done(message.result as never);
  }
}
