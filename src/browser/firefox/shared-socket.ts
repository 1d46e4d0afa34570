import { EventEmitter } from 'node:events';
import WebSocket from 'ws';
import { asError, background } from '../../core/background.ts';
import { BidiRefused } from '../bidi.ts';
import type { BidiLink } from '../bidi-link.ts';
import type { BidiShare } from '../bidi-share.ts';
import type { SocketSide } from '../remote-end.ts';
import { ClientEvents } from './client-events.ts';

/**
 * A client's own BiDi socket on a connection that others use, too: its commands go out under ids of ours, and of the
 * events it hears those that it subscribed to.
 */
export class SharedSocket extends EventEmitter implements SocketSide {
  readyState: number = WebSocket.CONNECTING;
  readonly bufferedAmount = 0;
  readonly isPaused = false;
  private readonly link: BidiLink;
  private readonly events = new ClientEvents();

  constructor(share: BidiShare) {
    super();
    this.link = share.link(
      (method, params) => {
        if (this.events.hears(method, params)) this.tell({ type: 'event', method, params });
      },
      () => this.close(),
    );
    setImmediate(() => {
      if (this.readyState !== WebSocket.CONNECTING) return;
      this.readyState = WebSocket.OPEN;
      this.emit('open');
    });
  }

  private tell(message: object): void {
    this.emit('message', Buffer.from(JSON.stringify(message)), false);
  }

  send(data: unknown, _options: { binary: boolean }, done: (error?: Error) => void): void {
    background('a message of a client', this.pass(String(data)));
    done();
  }

  private async pass(text: string): Promise<void> {
    const { id, method, params } = JSON.parse(text) as {
      id?: number;
      method?: string;
      params?: Record<string, unknown>;
    };
    try {
      const result = await this.does(String(method), params ?? {});
      this.tell({ type: 'success', id, result });
    } catch (error) {
      const { code, said, stacktrace } =
        error instanceof BidiRefused ? error : new BidiRefused('unknown error', asError(error).message, '');
      this.tell({ type: 'error', id: id ?? null, error: code, message: said, stacktrace });
    }
  }

  private async does(method: string, params: Record<string, unknown>): Promise<unknown> {
    if (method === 'session.new') throw new BidiRefused('session not created', 'this connection has its session', '');
    // What we ourselves have subscribed to stays, whatever a client lets go of.
    if (method === 'session.unsubscribe' && params.subscriptions === undefined) {
      const refused = this.events.withdrawn(params.events);
      if (refused) throw refused;
      return {};
    }
    const result = await this.link.send(method, params);
    if (method === 'session.unsubscribe') this.events.unsubscribed(params.subscriptions);
    if (method === 'session.subscribe')
      for (const told of this.events.subscribed(params, result.subscription)) this.tell({ type: 'event', ...told });
    return this.events.shown(method, result) ?? result;
  }

  pause(): void {}
  resume(): void {}

  close(): void {
    if (this.readyState === WebSocket.CLOSED) return;
    this.readyState = WebSocket.CLOSED;
    this.link.close();
    this.emit('close');
  }

  terminate(): void {
    this.close();
  }
}
