import WebSocket from 'ws';

type Params = Record<string, unknown>;

/**
 * Events that may wait a moment. They come in bursts, most of all while a page loads, and reading
 * them at once would hold up the answer to the command that is loading it.
 */
const patient = /^\{"method":"(network\.|log\.|script\.message|browsingContext\.(navigation|domContentLoaded|load))/;
const patienceMs = 12;

/** A WebDriver BiDi connection: commands answered by id, events handed on as they come. */
export class Bidi {
  private count = 0;
  private readonly waiting = new Map<number, { done: (result: never) => void; fail: (error: Error) => void }>();

  private constructor(
    private readonly socket: WebSocket,
    private readonly onEvent: (method: string, params: never) => void,
    onClose: () => void,
  ) {
    socket.on('message', (data: Buffer) => {
      if (!patient.test(data.toString('latin1', 0, 48))) return this.hear(data);
      this.backlog.push(data);
      this.timer ??= setTimeout(() => this.catchUp(), patienceMs);
    });
    socket.on('error', () => socket.terminate());
    socket.on('close', () => {
      for (const { fail } of this.waiting.values()) fail(new Error('the BiDi connection was closed'));
      this.waiting.clear();
      onClose();
    });
  }

  static connect(url: string, onEvent: (method: string, params: never) => void, onClose: () => void): Promise<Bidi> {
    const socket = new WebSocket(url, { perMessageDeflate: false, maxPayload: 256 * 1024 * 1024 });
    const bidi = new Bidi(socket, onEvent, onClose);
    return new Promise((done, fail) => {
      socket.once('open', () => done(bidi));
      socket.once('error', fail);
    });
  }

  /** Sends a command; rejects with the remote end's own error and message. */
  send<R = Params>(method: string, params: Params): Promise<R> {
    if (this.socket.readyState !== WebSocket.OPEN) return Promise.reject(new Error('the BiDi connection is closed'));
    const id = ++this.count;
    this.socket.send(JSON.stringify({ id, method, params }));
    return new Promise((done, fail) => this.waiting.set(id, { done, fail }));
  }

  /** Reads what was put off. */
  catchUp(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    for (const data of this.backlog.splice(0)) this.hear(data);
  }
  private readonly backlog: Buffer[] = [];
  private timer: NodeJS.Timeout | undefined;

  close(): void {
    this.catchUp();
    this.socket.terminate();
  }

  private hear(data: Buffer): void {
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
      if (message.method) this.onEvent(message.method, message.params as never);
      return;
    }
    const waiting = this.waiting.get(message.id);
    this.waiting.delete(message.id);
    if (message.type === 'error') waiting?.fail(new Error(`${message.error}: ${message.message}`));
    else waiting?.done(message.result as never);
  }
}
