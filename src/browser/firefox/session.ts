import { readFileSync } from 'node:fs';
import type { BidiLink } from '../bidi-link.ts';
import { ClassicError, classicError } from './classic-error.ts';
import type { Nodes, RemoteValue } from './values.ts';

type Json = Record<string, unknown>;

const inPage = readFileSync(new URL('./in-page.js', import.meta.url), 'utf8')
  .replace(/^\/\/.*\n/, '')
  .trim()
  .replace(/;$/, '');
/** The world of our own in each page, where nothing of the page can change what is asked. */
const world = 'classic';
const prepare = `globalThis.classic ??= ${inPage}`;

interface Prompt {
  type: string;
  message: string;
  text?: string;
}

export interface Timeouts {
  implicit: number;
  pageLoad: number;
  script: number | null;
}

interface Evaluated {
  type: 'success' | 'exception';
  realm: string;
  result: RemoteValue;
  exceptionDetails?: { text: string };
}

export interface Context {
  context: string;
  url: string;
  children: Context[] | null;
  parent?: string | null;
  clientWindow?: string;
}

/** Handled by the commands for dialogs and windows themselves. */
export type PromptBehavior = 'dismiss' | 'accept' | 'dismiss and notify' | 'accept and notify' | 'ignore';

/** How long a navigation that a press began may keep us from seeing it begin, ms. */
const navigationSeenMs = 40;

/** What a classic session is made of: which window and frame it looks at, its limits, its open dialog, what it handed out. */
export class ClassicSession implements Nodes {
  window: string;
  /** The frame looked at, the window itself where none is. */
  frame: string;
  timeouts: Timeouts = { implicit: 0, pageLoad: 300_000, script: 30_000 };
  pageLoadStrategy: 'none' | 'eager' | 'normal' = 'normal';
  promptBehavior: PromptBehavior = 'dismiss and notify';
  /** By window. */
  readonly prompts = new Map<string, Prompt>();
  private readonly handed = new Set<string>();
  private readonly loading = new Map<string, string>();
  private readonly waiting = new Set<() => void>();
  /** Contexts whose world is prepared; a new document has none. */
  private readonly prepared = new Set<string>();
  /** Which window a frame stands in. */
  private readonly parents = new Map<string, string | null>();

  constructor(
    readonly bidi: BidiLink,
    first: string,
  ) {
    this.window = first;
    this.frame = first;
    this.parents.set(first, null);
  }

  /** What the browser tells of its pages. */
  hear(method: string, params: Json): void {
    const context = String(params.context ?? '');
    switch (method) {
      case 'browsingContext.contextCreated':
        this.parents.set(context, (params.parent as string | null) ?? null);
        break;
      case 'browsingContext.contextDestroyed':
        this.parents.delete(context);
        this.loading.delete(context);
        this.prepared.delete(context);
        break;
      case 'browsingContext.navigationStarted':
        this.loading.set(context, 'started');
        break;
      case 'browsingContext.navigationCommitted':
        this.prepared.delete(context);
        break;
      case 'browsingContext.domContentLoaded':
        this.prepared.delete(context);
        if (this.loading.has(context)) this.loading.set(context, 'ready');
        break;
      case 'browsingContext.load':
      case 'browsingContext.navigationFailed':
      case 'browsingContext.navigationAborted':
      case 'browsingContext.fragmentNavigated':
        this.loading.delete(context);
        break;
      case 'browsingContext.userPromptOpened':
        this.prompts.set(this.topOf(context), {
          type: String(params.type),
          message: String(params.message ?? ''),
        });
        break;
      case 'browsingContext.userPromptClosed':
        this.prompts.delete(this.topOf(context));
        break;
    }
    for (const wake of this.waiting) wake();
  }

  topOf(context: string): string {
    let at = context;
    for (let i = 0; i < 50; i++) {
      const parent = this.parents.get(at);
      if (!parent) return at;
      at = parent;
    }
    return at;
  }

  parentOf(context: string): string | undefined {
    return this.parents.get(context) ?? undefined;
  }

  get prompt(): Prompt | undefined {
    return this.prompts.get(this.window);
  }

  hand(id: string): void {
    this.handed.add(id);
  }

  take(id: string, kind: 'element' | 'shadow root'): void {
    if (this.handed.has(id)) return;
    throw new ClassicError(
      kind === 'element' ? 'no such element' : 'no such shadow root',
      `no ${kind} of this session has the id ${id}`,
    );
  }

  send<R = Json>(method: string, params: Json): Promise<R> {
    return this.bidi.send<R>(method, params);
  }

  /** Settles as the work does, or with `dialog` as soon as one stands open that did not before. */
  async orPrompt<T>(work: Promise<T>): Promise<T | 'dialog'> {
    let stop = (): void => {};
    const opened = new Promise<'dialog'>((done) => {
      const look = (): void => {
        if (this.prompt) done('dialog');
      };
      stop = () => this.waiting.delete(look);
      this.waiting.add(look);
    });
    work.catch(() => undefined);
    return Promise.race([work, opened]).finally(stop);
  }

  /** Asks a function of ours about the page that is looked at. @param name of `in-page.js` */
  async ask<T>(name: string, ...args: unknown[]): Promise<T> {
    const told = await this.inWorld(`(name, ...all) => classic[name](...all)`, [
      { type: 'string', value: name },
      ...args,
    ]);
    return plain(told) as T;
  }

  /** The same, where it answers with nodes. */
  async askNodes(name: string, ...args: unknown[]): Promise<RemoteValue[]> {
    const told = await this.inWorld(`(name, ...all) => classic[name](...all)`, [
      { type: 'string', value: name },
      ...args,
    ]);
    return (told.value as RemoteValue[]) ?? [];
  }

  /** Runs a function in the world of our own, in the frame that is looked at. */
  async inWorld(functionDeclaration: string, args: unknown[], again = true): Promise<RemoteValue> {
    const context = this.frame;
    const body = this.prepared.has(context)
      ? functionDeclaration
      : `(...all) => { ${prepare}; return (${functionDeclaration})(...all); }`;
    const told = await this.send<Evaluated>('script.callFunction', {
      functionDeclaration: body,
      target: { context, sandbox: world },
      awaitPromise: true,
      arguments: args,
      serializationOptions: { maxDomDepth: 0 },
    }).catch((error: unknown) => {
      throw this.gone(error);
    });
    if (told.type === 'exception') {
      const text = told.exceptionDetails?.text ?? '';
      // A document that came meanwhile has no world yet.
      if (again && /classic is (?:not defined|undefined)/.test(text)) {
        this.prepared.delete(context);
        return this.inWorld(functionDeclaration, args, false);
      }
      // What was kept of a document that the browser has let go of since.
      if (/dead object/i.test(text)) throw staleElement();
      throw new ClassicError(
        /SyntaxError|InvalidSelector|not a valid|XPath|evaluate/i.test(text) ? 'invalid selector' : 'javascript error',
        text,
      );
    }
    this.prepared.add(context);
    return told.result;
  }

  /** A node that is no longer there, or a window that is not. */
  gone(error: unknown): ClassicError {
    const told = classicError(error);
    return told.code === 'unknown error' && /no such frame|not found|discarded|destroyed/i.test(told.message)
      ? new ClassicError('no such window', 'the window or frame that was looked at is gone')
      : told;
  }

  /** An element as an argument, known to be one of the document that is looked at. */
  element(id: string): { sharedId: string } {
    this.take(id, 'element');
    return { sharedId: id };
  }

  /** Asks about one element; one that is out of its document is stale. */
  async askElement<T>(name: string, id: string, ...args: unknown[]): Promise<T> {
    this.element(id);
    const told = await this.inWorld(
      `(name, el, ...all) => (classic.here(el) ? { told: classic[name](el, ...all) } : { stale: true })`,
      [{ type: 'string', value: name }, { sharedId: id }, ...args],
    );
    const { stale, told: answer } = plain(told) as { stale?: boolean; told?: T };
    if (stale) throw staleElement();
    return answer as T;
  }

  /** Asks again and again until the answer pleases or the implicit limit is over. */
  async implicitly<T>(ask: () => Promise<T>, pleases: (value: T) => boolean): Promise<T> {
    const end = performance.now() + this.timeouts.implicit;
    for (;;) {
      const value = await ask();
      if (pleases(value) || performance.now() >= end) return value;
      await new Promise((done) => setTimeout(done, Math.min(25, Math.max(1, end - performance.now()))));
    }
  }

  /** A command that may have begun a navigation waits for it, as far as the session wants. */
  async settle(): Promise<void> {
    if (this.pageLoadStrategy === 'none') return;
    // A navigation is told to have begun a moment after what began it was answered.
    await this.orPrompt(
      this.send('browsingContext.getTree', { root: this.window, maxDepth: 0 }).catch(() => undefined),
    );
    if (!this.loading.has(this.frame) && !this.loading.has(this.window)) return;
    await this.loaded(performance.now() + this.timeouts.pageLoad);
  }

  /** Waits until nothing loads in the window or frame that is looked at; a dialog ends the waiting. */
  async loaded(end: number): Promise<void> {
    const done = (): boolean => {
      if (this.prompt || !this.parents.has(this.window)) return true;
      return [this.window, this.frame].every((context) => {
        const state = this.loading.get(context);
        return state === undefined || (state === 'ready' && this.pageLoadStrategy === 'eager');
      });
    };
    while (!done()) {
      const left = end - performance.now();
      if (left <= 0) throw new ClassicError('timeout', `Navigation timed out after ${this.timeouts.pageLoad} ms`);
      await new Promise<void>((wake) => {
        const go = (): void => {
          clearTimeout(timer);
          this.waiting.delete(go);
          wake();
        };
        const timer = setTimeout(go, Math.min(left, 1000));
        this.waiting.add(go);
      });
    }
  }

  /** Waits a moment for a navigation to begin. */
  async begins(): Promise<void> {
    const end = performance.now() + navigationSeenMs;
    while (!this.loading.has(this.window) && performance.now() < end) await new Promise((done) => setTimeout(done, 4));
  }

  /** Windows and frames as they are. */
  async tree(root?: string): Promise<Context[]> {
    const { contexts } = await this.send<{ contexts: Context[] }>('browsingContext.getTree', root ? { root } : {});
    return contexts;
  }

  /** The window that is looked at. @throws ClassicError when it was closed */
  async top(): Promise<Context> {
    const [context] = await this.tree(this.window).catch(() => []);
    if (!context) throw new ClassicError('no such window', 'the window that was looked at is closed');
    return context;
  }

  /** Before a command that a dialog stands in the way of: it is handled as the session wants. */
  async clearPrompt(): Promise<void> {
    const { prompt, promptBehavior, window } = this;
    if (!prompt) return;
    if (promptBehavior !== 'ignore')
      await this.send('browsingContext.handleUserPrompt', {
        context: window,
        accept: promptBehavior.startsWith('accept'),
      }).catch(() => undefined);
    this.prompts.delete(promptBehavior === 'ignore' ? '' : window);
    if (promptBehavior === 'dismiss' || promptBehavior === 'accept') return;
    throw new ClassicError(
      'unexpected alert open',
      `Unexpected ${prompt.type} dialog detected. Performed handler "${promptBehavior}". Dialog text: ${prompt.message}`,
      {
        text: prompt.message,
      },
    );
  }
}

export const staleElement = (): ClassicError =>
  new ClassicError('stale element reference', 'the element is no longer part of the document it was found in');

/** A value of our own functions, which hold nothing but plain data. */
function plain({ type, value }: RemoteValue): unknown {
  switch (type) {
    case 'undefined':
    case 'null':
      return null;
    case 'array':
      return ((value as RemoteValue[]) ?? []).map(plain);
    case 'object':
      return Object.fromEntries(((value as [string, RemoteValue][]) ?? []).map(([key, one]) => [key, plain(one)]));
    default:
      return value;
  }
}
