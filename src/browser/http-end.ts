import {
  Agent as HttpAgent,
  request as httpRequest,
  type IncomingHttpHeaders,
  type OutgoingHttpHeaders,
} from 'node:http';
import { Agent as HttpsAgent, request as httpsRequest } from 'node:https';
import WebSocket from 'ws';
import { Bidi } from './bidi.ts';
import type { BidiLink, BidiListener } from './bidi-link.ts';
import type { NewSession, SocketSide } from './remote-end.ts';
import { hopByHop, type Answer } from './recording/wire-answer.ts';

/** A driver's answer, a whole-page picture say, is never larger. */
const largestAnswer = 256 * 1024 * 1024;
const largestMessage = 256 * 1024 * 1024;
/** A driver that does not take a connection by then never will. */
const joinLimitMs = 10_000;

/** The driver was sent something and did not answer in time. */
export class DriverSilent extends Error {}

/** A driver that is spoken to by HTTP: on this machine, or at the address of a remote endpoint. */
export class HttpEnd {
  private readonly url: URL;
  private readonly agent: HttpAgent;
  private readonly secure: boolean;

  /**
   * @param base address of the driver, with the path its commands lie below
   * @param authorization header sent with everything
   */
  constructor(
    base: string,
    private readonly authorization?: string,
  ) {
    this.url = new URL(base);
    this.secure = this.url.protocol === 'https:';
    this.agent = new (this.secure ? HttpsAgent : HttpAgent)({ keepAlive: true, maxSockets: 16 });
  }

  send(method: string, path: string, headers: IncomingHttpHeaders, body: Buffer, limitMs?: number): Promise<Answer> {
    const passed: OutgoingHttpHeaders = {};
    for (const [name, value] of Object.entries(headers)) if (!hopByHop.has(name)) passed[name] = value;
    if (body.length || method === 'POST' || method === 'PUT') passed['content-length'] = body.length;
    if (this.authorization) passed.authorization = this.authorization;
    return new Promise((done, fail) => {
      const timer =
        limitMs === undefined
          ? undefined
          : setTimeout(() => {
              outgoing.destroy(new DriverSilent(`the driver did not answer ${method} ${path} for ${limitMs / 1000} s`));
            }, limitMs);
      const giveUp = (error: Error): void => {
        clearTimeout(timer);
        fail(error);
      };
      const outgoing = (this.secure ? httpsRequest : httpRequest)(
        {
          host: this.url.hostname.replace(/^\[|\]$/g, ''),
          port: this.url.port,
          method,
          path: this.url.pathname.replace(/\/$/, '') + path,
          headers: passed,
          agent: this.agent,
        },
        (answer) => {
          const chunks: Buffer[] = [];
          let size = 0;
          answer.on('data', (chunk: Buffer) => {
            size += chunk.length;
            if (size > largestAnswer) outgoing.destroy(new Error('the answer of the driver has more than 256 MiB'));
            else chunks.push(chunk);
          });
          answer.on('end', () => {
            clearTimeout(timer);
            done({ status: answer.statusCode ?? 500, headers: answer.headers, body: Buffer.concat(chunks) });
          });
          answer.on('error', giveUp);
          answer.on('aborted', () => giveUp(new Error('the driver broke off its answer')));
        },
      );
      outgoing.on('error', giveUp);
      outgoing.end(body);
    });
  }

  /**
   * Where a session's socket is. Of the address that the driver gives only the path is taken: where it may be reached
   * is known, and no answer can send us elsewhere.
   */
  private socketAddress({ sessionId, capabilities }: NewSession): string {
    const told = String(capabilities.webSocketUrl);
    const path = URL.canParse(told) ? new URL(told).pathname : `/session/${sessionId}`;
    return `${this.secure ? 'wss' : 'ws'}://${this.url.host}${path}`;
  }

  private get socketHeaders(): Record<string, string> {
    return this.authorization ? { authorization: this.authorization } : {};
  }

  bidi(session: NewSession, onEvent: BidiListener, onClose: () => void): Promise<BidiLink> {
    return Bidi.connect(this.socketAddress(session), onEvent, onClose, this.socketHeaders);
  }

  socket(session: NewSession): SocketSide {
    return new WebSocket(this.socketAddress(session), {
      perMessageDeflate: false,
      maxPayload: largestMessage,
      handshakeTimeout: joinLimitMs,
      headers: this.socketHeaders,
    });
  }

  destroy(): void {
    this.agent.destroy();
  }
}
