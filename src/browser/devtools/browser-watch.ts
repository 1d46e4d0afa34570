import { background } from '../../core/background.ts';
import type { Environment } from '../../core/evidence/attempt.ts';
import type { BidiLink } from '../bidi-link.ts';
import { observerScripts } from '../observer/source.ts';
import { keptBodies } from '../recording/body-collector.ts';
import type { AttemptRequest, EvidenceSink } from '../recording/sink.ts';
import type { ClientListener, ClientStep } from './client-step.ts';
import { ContextAttempt } from './context-attempt.ts';
import type { WatchedBrowser } from './watched-browser.ts';

type Json = Record<string, unknown>;

/** Requests whose end may still be told; a browser that runs for days forgets the others. */
const mostRequests = 10_000;
/** What the browser calls the context that is there without being asked for. */
const usual = 'default';

/**
 * Watches a whole browser that somebody drives over DevTools: what happens in each of its isolated contexts belongs to
 * an attempt of its own, and so does what the client does there.
 */
export class BrowserWatch implements ClientListener {
  private link!: BidiLink;
  private readonly attempts = new Map<string, ContextAttempt>();
  /** By target and browsing context: whose it is. */
  private readonly owners = new Map<string, string>();
  /** The same by request, of those that were told last. */
  private readonly requests = new Map<string, string>();
  private readonly sessions = new Map<string, string>();
  private readonly ending: Promise<void>[] = [];
  /** Contexts that were disposed of: what is told of them late begins no attempt. */
  private readonly over = new Set<string>();
  private closed = false;

  private constructor(
    private readonly browser: WatchedBrowser,
    private readonly sink: EvidenceSink,
    private readonly request: AttemptRequest,
    private readonly environment: Environment,
    private readonly ended: (id: string, used: boolean) => void,
  ) {}

  /**
   * @param ended told of an attempt that is whole, and whether the client did anything in it
   */
  static async start(
    browser: WatchedBrowser,
    sink: EvidenceSink,
    request: AttemptRequest,
    ended: (id: string, used: boolean) => void,
  ): Promise<BrowserWatch> {
    const watch = new BrowserWatch(browser, sink, request, await browser.environment(), ended);
    watch.link = await browser.link(
      (method, params: Json, heard) => watch.hear(method, params, heard),
      (session, { targetId, browserContextId }) => {
        watch.sessions.set(session, browserContextId ?? usual);
        watch.owners.set(targetId, browserContextId ?? usual);
      },
      () => (watch.closed = true),
    );
    await Promise.all([
      watch.link.send('session.subscribe', { events: browser.events }),
      ...observerScripts.map((script) => watch.link.send('script.addPreloadScript', script)),
      watch.link.send('network.addDataCollector', keptBodies).catch(() => undefined),
    ]);
    return watch;
  }

  private hear(method: string, params: Json, heard: number): void {
    const owner = this.ownerOf(method, params);
    if (owner === undefined) {
      // A realm that ends says nothing of where it was.
      if (method === 'script.realmDestroyed')
        for (const one of this.attempts.values()) one.hear(method, params as never, heard);
      return;
    }
    if (this.over.has(owner)) return;
    if (method === 'network.beforeRequestSent') this.asks((params.request as { request: string }).request, owner);
    this.attemptOf(owner, heard).hear(method, params as never, heard);
  }

  private ownerOf(method: string, params: Json): string | undefined {
    if (method === 'browsingContext.contextCreated') {
      const { context, parent, userContext } = params as {
        context: string;
        parent: string | null;
        userContext?: string;
      };
      const owner = (parent === null ? this.owners.get(context) : this.owners.get(parent)) ?? userContext ?? usual;
      this.owners.set(context, owner);
      return owner;
    }
    if (method.startsWith('goog:cdp.')) {
      const { session, params: inner } = params as { session?: string; params?: { requestId?: string } };
      return (
        (inner?.requestId === undefined ? undefined : this.requests.get(inner.requestId)) ??
        (session === undefined ? undefined : this.sessions.get(session))
      );
    }
    const { context, source, request } = params as {
      context?: string | null;
      source?: { context?: string };
      request?: { request?: string };
    };
    const named = context ?? source?.context;
    if (named) return this.owners.get(named);
    return request?.request === undefined ? undefined : this.requests.get(request.request);
  }

  private asks(request: string, owner: string): void {
    this.requests.set(request, owner);
    if (this.requests.size > mostRequests) this.requests.delete(this.requests.keys().next().value!);
  }

  /** @param at when it began, where it is not there yet */
  private attemptOf(owner: string, at: number): ContextAttempt {
    let attempt = this.attempts.get(owner);
    if (!attempt) {
      attempt = new ContextAttempt(this.sink, this.request, this.environment, this.link, this.browser, at);
      this.attempts.set(owner, attempt);
    }
    return attempt;
  }

  step(step: ClientStep): void {
    const owner = this.owners.get(step.target);
    if (owner !== undefined && !this.over.has(owner)) this.attemptOf(owner, step.at).step(step);
  }

  opens(target: string, address: string): void {
    const owner = this.owners.get(target);
    if (owner !== undefined) this.attempts.get(owner)?.opens(address);
  }

  busy(target: string, busy: boolean): void {
    const owner = this.owners.get(target);
    if (owner !== undefined) this.attempts.get(owner)?.busy(busy);
  }

  byItself(target: string, element: string, at: number, until?: number): void {
    const owner = this.owners.get(target);
    if (owner !== undefined) this.attempts.get(owner)?.byItself(element, at, until);
  }

  begins(browserContext: string | undefined, at: number): void {
    // What was there before the client opened anything has begun already.
    if (browserContext === undefined || !this.over.has(browserContext)) this.attemptOf(browserContext ?? usual, at);
  }

  disposes(browserContext: string, at: number): void {
    this.over.add(browserContext);
    this.endOf(browserContext, undefined, at);
  }

  private endOf(owner: string, interrupted?: string, at?: number): void {
    const attempt = this.attempts.get(owner);
    if (!attempt) return;
    this.attempts.delete(owner);
    const ended = attempt.end(interrupted, at).then(() => this.ended(attempt.recorder.id, attempt.used));
    this.ending.push(ended.catch(() => undefined));
    background('ending an attempt', ended, attempt.recorder.id);
  }

  /** The browser is gone: every attempt in it is over. */
  async end(interrupted?: string): Promise<void> {
    for (const owner of [...this.attempts.keys()]) this.endOf(owner, interrupted);
    await Promise.all(this.ending);
    if (!this.closed) this.link.close();
  }
}
