import { createServer, type IncomingMessage, type Server } from 'node:http';
import { connect } from 'node:net';
import type { Duplex } from 'node:stream';
import WebSocket, { WebSocketServer, type RawData } from 'ws';
import { guarded } from '../../core/background.ts';
import { parseJson } from '../recording/command-body.ts';
import { passMessage } from '../recording/bidi-bridge.ts';
import { ClientEvents } from './client-events.ts';

type Json = Record<string, unknown>;

/** Numbers of our own commands begin here: answers to smaller ones are the client's. */
export const firstBidiId = 2 ** 52;
const largestMessage = 256 * 1024 * 1024;
/** Longer messages of a client ask for nothing that concerns us. */
const longestRead = 1024 * 1024;
/** So much of a message tells whether it is an event, and which, or what it answers. */
const headLength = 200;
const ofOurs = /^(?:browsingContext\.context|script\.realm)/;

/** Records one session beside the client that began it. */
export interface SessionRecorder {
  /** @param write says something of ours to the browser */
  begins(capabilities: Json, write: (text: string) => void): Promise<unknown>;
  /** What went between client and browser, a message at a time. */
  passed(from: 'client' | 'browser', message: Buffer): void;
  /** What the browser told, of itself or in answer to us. */
  told(message: Buffer): void;
}

interface Session {
  events: ClientEvents;
  recorder: SessionRecorder;
}

/** Passes a Firefox's BiDi on to whoever started it, message by message, and lets a recorder speak on the same connection. */
export class PassedFirefox {
  private readonly door = new WebSocketServer({ noServer: true, perMessageDeflate: false, maxPayload: largestMessage });
  /**
   * @param port of the browser itself
   * @param recorder makes one for a session that begins
   * @param unread told of a connection that is passed on without being understood
   */
  constructor(
    private readonly port: number,
    private readonly recorder: () => SessionRecorder,
    private readonly unread: (why: string) => void,
  ) {}

  listen(host: string, port: number): Promise<Server> {
    const server = createServer();
    server.on('request', (request) => this.tunnel(request, request.socket, Buffer.alloc(0)));
    server.on('upgrade', (request, socket: Duplex, head: Buffer) =>
      guarded('joining a BiDi socket', () => this.upgrade(request, socket, head)),
    );
    server.on('clientError', (_error, socket) => socket.destroy());
    return new Promise((done, fail) => {
      server.once('error', fail);
      server.listen(port, host, () => done(server));
    });
  }

  /** What is no BiDi is the browser's alone, byte by byte. */
  private tunnel(request: IncomingMessage, client: Duplex, head: Buffer): void {
    const browser = connect({ port: this.port, host: '127.0.0.1', noDelay: true });
    const { rawHeaders } = request;
    const lines = rawHeaders.flatMap((name, i) =>
      i % 2 ? [] : [`${name}: ${/^host$/i.test(name) ? this.hostOf(request) : rawHeaders[i + 1]}`],
    );
    browser.write(`${request.method} ${request.url} HTTP/1.1\r\n${lines.join('\r\n')}\r\n\r\n`);
    browser.write(head);
    // What was asked is over with its last byte; the connection is over when the answer is.
    (request.headers.upgrade ? client : request).pipe(browser, { end: false });
    browser.pipe(client);
    browser.on('error', () => client.destroy());
    client.on('error', () => browser.destroy());
    client.on('close', () => browser.destroy());
  }

  /** A browser answers to the name it was called by, at its own port. */
  private hostOf({ headers }: IncomingMessage): string {
    return `${(headers.host ?? 'localhost').replace(/:\d*$/, '')}:${this.port}`;
  }

  private upgrade(request: IncomingMessage, socket: Duplex, head: Buffer): void {
    socket.on('error', () => socket.destroy());
    const pathname = (request.url ?? '/').split('?', 1)[0]!;
    // Whom the browser refuses it refuses itself: pages are told by their origin.
    if (request.headers.origin !== undefined || pathname !== '/session') {
      if (request.headers.origin === undefined) this.unread(`${pathname} is no address of a session that begins`);
      return this.tunnel(request, socket, head);
    }
    const browser = new WebSocket(`ws://127.0.0.1:${this.port}${pathname}`, {
      headers: { host: this.hostOf(request) },
      perMessageDeflate: false,
      maxPayload: largestMessage,
    });
    browser.on('unexpected-response', (_request, answer) => {
      socket.end(
        `HTTP/1.1 ${answer.statusCode} ${answer.statusMessage}\r\ncontent-length: 0\r\nconnection: close\r\n\r\n`,
      );
      browser.terminate();
    });
    browser.on('error', () => socket.destroy());
    browser.once('open', () =>
      this.door.handleUpgrade(request, socket, head, (client) => {
        new Connection(client, browser, this.recorder);
      }),
    );
  }
}

/** A client's connection and the browser's that belongs to it. */
class Connection {
  /** Commands whose answers say something of what the client hears. */
  private readonly asked = new Map<number, { method: string; params: Json }>();
  private session: Session | undefined;
  private beginning: SessionRecorder | undefined;
  /** What waits until the recorder stands. */
  private held: (() => void)[] | undefined;

  constructor(
    private readonly client: WebSocket,
    private readonly browser: WebSocket,
    private readonly recorder: () => SessionRecorder,
  ) {
    client.on('message', (data: RawData, binary: boolean) =>
      guarded('passing a message on', () => this.commanded(data as Buffer, binary)),
    );
    browser.on('message', (data: RawData, binary: boolean) =>
      guarded('passing a message back', () => this.answered(data as Buffer, binary)),
    );
    client.on('error', () => client.terminate());
    browser.on('error', () => browser.terminate());
    browser.on('close', () => client.close());
    // Its session goes on in the browser, and what was recorded of it is still to be told.
    client.on('close', () => {
      if (!this.session) browser.close();
    });
  }

  private commanded(data: Buffer, binary: boolean): void {
    const read = binary || data.length > longestRead ? undefined : parseJson(data);
    const { id, method, params } = (read ?? {}) as { id?: unknown; method?: unknown; params?: Json };
    if (typeof id === 'number' && typeof method === 'string') {
      if (method === 'session.new' && !this.session) this.beginning ??= this.recorder();
      if (method === 'session.unsubscribe' && params?.subscriptions === undefined && this.session)
        return this.withdraw(id, params ?? {}, this.session);
      if (/^(?:session\.|script\.getRealms)/.test(method)) this.asked.set(id, { method, params: params ?? {} });
    }
    passMessage(this.browser, this.client, data, binary);
    if (!binary) (this.session?.recorder ?? this.beginning)?.passed('client', data);
  }

  /** By their names it would take back what we asked for, too. */
  private withdraw(id: number, params: Json, { events }: Session): void {
    const refused = events.withdrawn(params.events);
    const answer = refused
      ? { type: 'error', id, error: refused.code, message: refused.said, stacktrace: refused.stacktrace }
      : { type: 'success', id, result: {} };
    this.toClient(Buffer.from(JSON.stringify(answer)));
  }

  private answered(data: Buffer, binary: boolean): void {
    const head = data.toString('latin1', 0, headLength);
    const event = /"method":"([\w.:]{1,100})"/.exec(head)?.[1];
    if (binary || !this.session) {
      const begun = binary || event !== undefined ? undefined : this.beginningOf(data);
      if (!begun) this.toClient(data, binary);
    } else if (event !== undefined && /^\{(?:"type":"event",)?"method"/.test(head))
      this.event(event, data, this.session);
    else this.answer(Number(/"id":(\d{1,16})\b/.exec(head)?.[1]), data, this.session);
  }

  /** The answer to the client's first command: it has it once we hear what comes next. */
  private beginningOf(data: Buffer): boolean {
    const { beginning } = this;
    const told = beginning ? parseJson(data) : undefined;
    const { result } = (told ?? {}) as { result?: { sessionId?: unknown; capabilities?: Json } };
    const isNew = this.asked.get(told?.id as number)?.method === 'session.new';
    if (!beginning || !isNew || typeof result?.sessionId !== 'string') return false;
    this.asked.delete(told!.id as number);
    this.session = { events: new ClientEvents(), recorder: beginning };
    this.held = [() => this.toClient(data)];
    const go = (): void => {
      const held = this.held ?? [];
      this.held = undefined;
      for (const one of held) one();
    };
    const write = (text: string): void => {
      if (this.browser.readyState === WebSocket.OPEN) this.browser.send(text);
    };
    void beginning.begins(result.capabilities ?? {}, write).then(go, go);
    return true;
  }

  private event(method: string, data: Buffer, { events, recorder }: Session): void {
    recorder.told(data);
    if (!ofOurs.test(method) && !events.mayHear(method)) return;
    const params = parseJson(data)?.params as Json | undefined;
    if (events.hears(method, params ?? {})) this.toClient(data);
  }

  private answer(id: number, data: Buffer, { events, recorder }: Session): void {
    if (id >= firstBidiId) return recorder.told(data);
    recorder.passed('browser', data);
    const asked = this.asked.get(id);
    this.asked.delete(id);
    const told = asked ? parseJson(data) : undefined;
    const result = told?.type === 'success' ? (told.result as Json) : undefined;
    if (!asked || !result) return this.toClient(data);
    if (asked.method === 'session.subscribe')
      for (const event of events.subscribed(asked.params, result.subscription))
        this.toClient(Buffer.from(JSON.stringify({ type: 'event', ...event })));
    if (asked.method === 'session.unsubscribe') events.unsubscribed(asked.params.subscriptions);
    const shown = events.shown(asked.method, result);
    this.toClient(shown ? Buffer.from(JSON.stringify({ ...told, result: shown })) : data);
  }

  private toClient(data: Buffer, binary = false): void {
    if (this.held) this.held.push(() => this.toClient(data, binary));
    else passMessage(this.client, this.browser, data, binary);
  }
}
