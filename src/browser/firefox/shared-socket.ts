import { EventEmitter } from 'node:events';
import WebSocket from 'ws';
import { asError, background } from '../../core/background.ts';
import type { BidiLink } from '../bidi-link.ts';
import type { BidiShare } from '../bidi-share.ts';
import type { SocketSide } from '../remote-end.ts';

/**
 * A client's own BiDi socket on a connection that others use, too: its commands go out under ids of ours, and of the
 * events it hears those that it subscribed to.
 */
export class SharedSocket extends EventEmitter implements SocketSide {
  readyState: number = WebSocket.CONNECTING;
  readonly bufferedAmount = 0;
  readonly isPaused = false;
  private readonly link: BidiLink;
  private readonly wanted = new Set<string>();

  constructor(share: BidiShare) {
    super();
    this.link = share.link(
      (method, params) => {
        const [domain] = method.split('.');
        if (this.wanted.has(method) || this.wanted.has(domain!)) this.tell({ type: 'event', method, params });
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
      const told = asError(error).message;
      const [, code, message] = /^([a-z ]+): ([\s\S]*)$/.exec(told) ?? [undefined, 'unknown error', told];
      this.tell({ type: 'error', id: id ?? null, error: code, message, stacktrace: '' });
    }
  }

  private async does(method: string, params: Record<string, unknown>): Promise<unknown> {
    const events = Array.isArray(params.events) ? (params.events as unknown[]).map(String) : [];
    // What we ourselves have subscribed to stays, whatever a client lets go of.
    if (method === 'session.unsubscribe') {
      for (const one of events) this.wanted.delete(one);
      return {};
    }
    if (method === 'session.new') throw new Error('session not created: this connection has its session');
    if (method === 'session.subscribe') for (const one of events) this.wanted.add(one);
    return this.link.send(method, params);
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
