import { randomBytes } from 'node:crypto';
import { background } from '../../core/background.ts';
import { traceparentOf } from '../../core/evidence/trace-context.ts';
import type { DebuggingDoor } from '../debugging-door.ts';
import { debuggingGate } from '../stress/gates.ts';
import type { RequestGate } from '../stress/requests.ts';

interface Told {
  isBlocked?: boolean;
  intercepts?: string[];
  request: { request: string; headers?: { name: string; value: { type?: string; value: string } }[] };
}

export interface TraceAdderOptions {
  /** Services that are sent a context: `http://127.0.0.1:3000`, scheme, host and port. */
  addresses: readonly string[];
  /** The attempt that requests belong to now. */
  attempt: () => string | undefined;
  /** Sends a BiDi command. */
  send<R = Record<string, unknown>>(method: string, params: Record<string, unknown>): Promise<R>;
  /** Told what went along with a request whose headers the browser told before. */
  sentAlong: (request: string, traceparent: string) => void;
}

/** A page that is left takes its requests along: that one is no longer there is no fault. */
const letGo = (goesOn: Promise<unknown>): void =>
  background(
    'letting a request go on',
    goesOn.catch(() => undefined),
  );

/**
 * Sends a trace context along with requests to some services of the application, so that what they did can be joined to
 * the request. Only there: a browser waits with each such request until it is told to go on. Chromium is told so on a
 * debugging connection of its own, since its driver carries out nothing while a command waits for the very request.
 */
export class TraceAdder {
  private intercept: string | undefined;
  private gate: RequestGate | undefined;

  constructor(private readonly options: TraceAdderOptions) {}

  /** @param door of the browser, where it has one for us */
  async start(door: DebuggingDoor | undefined): Promise<void> {
    const addresses = this.options.addresses.map((address) => new URL(address));
    if (door) {
      const urls = addresses.map(({ origin }) => `${origin}/*`);
      const paused = this.paused.bind(this);
      this.gate = await debuggingGate(door, { wantsAnswers: false, paused, answered: () => undefined }, urls);
      return;
    }
    const { intercept } = await this.options.send<{ intercept: string }>('network.addIntercept', {
      phases: ['beforeRequestSent'],
      urlPatterns: addresses.map(({ protocol, hostname, port }) => ({
        type: 'pattern',
        protocol: protocol.slice(0, -1),
        hostname,
        ...(port ? { port } : {}),
      })),
    });
    this.intercept = intercept;
  }

  private context(): string | undefined {
    const attempt = this.options.attempt();
    return attempt === undefined ? undefined : traceparentOf(attempt, randomBytes(8).toString('hex'));
  }

  private paused({ id, network, headers = {} }: Parameters<Parameters<typeof debuggingGate>[1]['paused']>[0]): void {
    const known = Object.keys(headers).some((name) => name.toLowerCase() === 'traceparent');
    const traceparent = known ? undefined : this.context();
    const { gate } = this;
    if (!gate) return;
    if (traceparent && network) this.options.sentAlong(network, traceparent);
    const goesOn = traceparent ? gate.goOn(id, { ...headers, traceparent }).catch(() => gate.goOn(id)) : gate.goOn(id);
    letGo(goesOn);
  }

  /**
   * Lets a request go on that waits for us, with its context; what is told of it has that header, too. One that somebody
   * else holds as well is theirs to let go on.
   */
  hear({ intercepts = [], isBlocked, request }: Told): void {
    if (!isBlocked || this.intercept === undefined || !intercepts.includes(this.intercept)) return;
    if (intercepts.length > 1) return;
    const plain = { request: request.request };
    const known = request.headers?.some(({ name }) => name.toLowerCase() === 'traceparent');
    const value = known ? undefined : this.context();
    const goOn = (more: object): Promise<unknown> =>
      this.options.send('network.continueRequest', { ...plain, ...more });
    if (!value) return letGo(goOn({}));
    const headers = [...(request.headers ?? []), { name: 'traceparent', value: { type: 'string', value } }];
    request.headers = headers;
    const goesOn = goOn({ headers }).catch(() => goOn({}));
    letGo(goesOn);
  }

  close(): void {
    background('closing the gate of traces', this.gate?.close().catch(() => undefined) ?? Promise.resolve());
  }
}
