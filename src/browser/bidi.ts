import WebSocket from 'ws';
import { guarded, trouble } from '../core/background.ts';
import type { BidiLink } from './bidi-link.ts';
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

/** A WebDriver BiDi connection: commands answered by id, events handed on as they come. */
export class Bidi implements BidiLink {
  private count = 0;
  private readonly waiting = new Map<number, Waiting>();

  private constructor(
    private readonly socket: WebSocket,
    private readonly onEvent: (method: string, params: never, heard: number) => void,
    onClose: () => void,
  ) {
    socket.on('message', (data: Buffer) => {
      const heard = clock();
      if (!patient.test(data.toString('latin1', 0, 64))) return this.hear(data, heard);
      if (data.includes(standing)) {
        this.catchUp();
        return this.hear(data, heard);
      }
      this.backlog.push({ data, heard });
      this.timer ??= setTimeout(() => this.catchUp(), patienceMs);
    });
    socket.on('error', () => socket.terminate());
    socket.on('close', () => {
      for (const id of [...this.waiting.keys()]) this.take(id)?.fail(new Error('the BiDi connection was closed'));
      guarded('hearing that a browser is gone', onClose);
    });
  }

  static connect(
    url: string,
    onEvent: (method: string, params: never, heard: number) => void,
    onClose: () => void,
    headers: Record<string, string> = {},
  ): Promise<Bidi> {
    const socket = new WebSocket(url, {
      headers,
      perMessageDeflate: false,
      maxPayload: 256 * 1024 * 1024,
      handshakeTimeout: connectMs,
    });
    const bidi = new Bidi(socket, onEvent, onClose);
    return new Promise((done, fail) => {
      socket.once('open', () => done(bidi));
      socket.once('error', fail);
      socket.once('close', () => fail(new Error('the BiDi connection was closed')));
    });
  }

  /** Sends a command; rejects with the remote end's own error and message. */
  send<R = Params>(method: string, params: Params): Promise<R> {
    if (this.socket.readyState !== WebSocket.OPEN) return Promise.reject(new Error('the BiDi connection is closed'));
    const id = ++this.count;
    return new Promise((done, fail) => {
      const timer = setTimeout(() => {
        this.take(id)?.fail(new Error(`the browser did not answer ${method} for ${answerMs / 1000} s`));
      }, answerMs);
      timer.unref();
      this.waiting.set(id, { done, fail, timer });
      this.socket.send(JSON.stringify({ id, method, params }), (error) => error && this.take(id)?.fail(error));
    });
  }

  private take(id: number): Waiting | undefined {
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
    this.socket.terminate();
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
      method?: string;
      params?: never;
    };
    if (message.id === undefined) {
      if (message.method) this.onEvent(message.method, message.params as never, heard);
      return;
    }
    const waiting = this.take(message.id);
    if (message.type === 'error') waiting?.fail(new Error(`${message.error}: ${message.message}`));
    else waiting?.done(message.result as never);
  }
}
