import { BidiRefused } from '../bidi.ts';
import { observerChannel, observerWorld, pageChannel } from '../observer/source.ts';

type Json = Record<string, unknown>;

interface Subscription {
  id?: string;
  /** Events, and whole modules of them. */
  events: ReadonlySet<string>;
  /** Only of these windows, and what is in them. */
  contexts?: ReadonlySet<string>;
  /** Only of these isolated contexts. */
  userContexts?: ReadonlySet<string>;
}

interface Context {
  top: string;
  userContext: string;
}

const texts = (value: unknown): string[] =>
  Array.isArray(value) ? (value as unknown[]).filter((one): one is string => typeof one === 'string') : [];
const setOf = (value: unknown): ReadonlySet<string> | undefined =>
  Array.isArray(value) ? new Set(texts(value)) : undefined;
const created = 'browsingContext.contextCreated';
const covers = (events: ReadonlySet<string>, method: string): boolean =>
  events.has(method) || events.has(method.split('.', 1)[0]!);

/**
 * What a client hears of a BiDi session that it shares with us: the browser tells all of its connections what any of them
 * asked for, and the client is told what it asked for itself, and nothing of ours.
 */
export class ClientEvents {
  private subscriptions: Subscription[] = [];
  /** Windows and frames that are there, in the order they came. */
  private readonly contexts = new Map<string, Context & { params: Json }>();
  /** Realms of ours, which say nothing of whose they are when they end. */
  private readonly ours = new Set<string>();

  /**
   * The client subscribed to something, and was not refused.
   * @returns events that a browser tells of what is there already, to whoever asks for them first
   */
  subscribed({ events, contexts, userContexts }: Json, id: unknown): { method: string; params: Json }[] {
    const unheard = [...this.contexts.values()].filter(({ params }) => !this.asked(created, params));
    const within = setOf(contexts);
    const users = setOf(userContexts);
    this.subscriptions.push({
      events: new Set(texts(events)),
      ...(typeof id === 'string' ? { id } : {}),
      ...(within ? { contexts: new Set([...within].map((one) => this.contexts.get(one)?.top ?? one)) } : {}),
      ...(users ? { userContexts: users } : {}),
    });
    return unheard
      .filter(({ params }) => this.asked(created, params))
      .map(({ params }) => ({ method: created, params }));
  }

  /** Takes back subscriptions by their ids. */
  unsubscribed(ids: unknown): void {
    const gone = new Set(texts(ids));
    this.subscriptions = this.subscriptions.filter(({ id }) => id === undefined || !gone.has(id));
  }

  /**
   * Takes events back from every subscription that is for all windows, as the specification has it.
   * @returns why not, where the client had not asked for one of them; then nothing is taken back
   */
  withdrawn(events: unknown): BidiRefused | undefined {
    const all = texts(events);
    const global = this.subscriptions.filter(({ contexts, userContexts }) => !contexts && !userContexts);
    const unknown = all.filter((one) => !global.some((subscription) => covers(subscription.events, one)));
    if (unknown.length)
      return new BidiRefused('invalid argument', `Failed to unsubscribe from events: ${unknown.join(', ')}`, '');
    this.subscriptions = this.subscriptions.map((one) =>
      global.includes(one) ? { ...one, events: new Set([...one.events].filter((event) => !all.includes(event))) } : one,
    );
    return undefined;
  }

  /** Whether the client asked for such events at all, wherever. */
  mayHear(method: string): boolean {
    return this.subscriptions.some(({ events }) => covers(events, method));
  }

  /** An event of the browser. @returns whether the client is to hear it */
  hears(method: string, params: Json): boolean {
    this.follow(method, params);
    if (this.isOurs(method, params)) return false;
    const wanted = this.asked(method, params);
    if (method === 'browsingContext.contextDestroyed') this.contexts.delete(String(params.context));
    return wanted;
  }

  /** An answer of the browser, without what is ours of it. */
  shown(method: string, result: Json): Json | undefined {
    if (method !== 'script.getRealms' || !Array.isArray(result.realms)) return undefined;
    const realms = (result.realms as Json[]).filter(({ sandbox }) => sandbox !== observerWorld);
    return realms.length < result.realms.length ? { ...result, realms } : undefined;
  }

  private follow(method: string, params: Json): void {
    if (method !== created || typeof params.context !== 'string') return;
    const parent = typeof params.parent === 'string' ? this.contexts.get(params.parent) : undefined;
    this.contexts.set(params.context, {
      top: parent?.top ?? params.context,
      userContext: parent?.userContext ?? (typeof params.userContext === 'string' ? params.userContext : 'default'),
      params,
    });
  }

  private isOurs(method: string, params: Json): boolean {
    if (method === 'script.message') return params.channel === observerChannel || params.channel === pageChannel;
    const realm = String(params.realm);
    if (method === 'script.realmCreated' && params.sandbox === observerWorld) {
      this.ours.add(realm);
      return true;
    }
    return method === 'script.realmDestroyed' && this.ours.delete(realm);
  }

  private asked(method: string, params: Json): boolean {
    const { context, source } = params as { context?: unknown; source?: { context?: unknown } };
    const where = this.contexts.get(String(context ?? source?.context));
    return this.subscriptions.some(
      ({ events, contexts, userContexts }) =>
        covers(events, method) &&
        (!contexts || (where !== undefined && contexts.has(where.top))) &&
        (!userContexts || (where !== undefined && userContexts.has(where.userContext))),
    );
  }
}
