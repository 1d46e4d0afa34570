import { parseJson } from '../recording/command-body.ts';
import { answerOf, bytes, type Answer } from '../recording/wire-answer.ts';
import { InputJoining } from './input-joining.ts';
import { saidByWebDriver, type Said } from './said-by-webdriver.ts';

type Json = Record<string, unknown>;

/** A step of a DevTools client, as a WebDriver command and its answer. */
export interface ClientStep {
  /** The target it was sent to: a page or a frame of its own. */
  target: string;
  method: string;
  path: string;
  body: Buffer;
  answer: Answer | undefined;
  at: number;
  until: number;
}

/** What becomes of targets, as far as the client's own connection tells. */
export interface ClientListener {
  step(step: ClientStep): void;
  /** A command was sent and is not answered: the test waits for the browser. */
  busy(target: string, busy: boolean): void;
  /** The client is done with an isolated context. */
  disposes(browserContext: string): void;
}

interface Pending {
  session: string | undefined;
  target: string | undefined;
  said: Said | undefined;
  at: number;
  method: string;
}

/** Answers longer than this are told without what they hold, but for pictures. */
const longestAnswer = 2 * 1024 * 1024;
/** A client that forgets its answers, or a browser that gives none, costs no more than this. */
const mostPending = 20_000;
/** What is open of an input is over when nothing comes for so long, ms. */
export const inputOverMs = 1500;
/** A page that has not loaded by then is not waited for, ms. */
const openOverMs = 30_000;
const inputs = /^Input\./;

/** What one connection of a client says, as steps. */
export class ClientSteps {
  private readonly pending = new Map<number, Pending[]>();
  private count = 0;
  private readonly targets = new Map<string, string>();
  /** By target: the isolated context it is in. */
  private readonly contexts = new Map<string, string>();
  private readonly joining = new Map<string, InputJoining>();
  /** Pages that were opened and may still be loading: the client waits for that by itself. */
  private readonly opening = new Map<string, { step: ClientStep; loadedAt?: number }>();

  /** @param page the target of a connection that speaks to one page alone */
  constructor(
    private readonly listener: ClientListener,
    private readonly page?: string,
  ) {}

  client(message: Buffer, at: number): void {
    const said = parseJson(message);
    if (!said || typeof said.method !== 'string' || typeof said.id !== 'number') return;
    const { method, id } = said;
    const params = (said.params ?? {}) as Json;
    const session = sessionOf(said);
    const target = this.targetOf(session);
    if (target !== undefined) this.opened(target);
    if (method === 'Target.disposeBrowserContext') this.disposes(String(params.browserContextId), at);
    if (target !== undefined && inputs.test(method)) this.inputOf(target).take({ method, params, at });
    const step = target === undefined || inputs.test(method) ? undefined : saidByWebDriver(method, params);
    if (target !== undefined && step) {
      this.inputOf(target).over(at);
      this.listener.busy(target, true);
    }
    if (!step && !attaches.test(method)) return;
    if (++this.count > mostPending) this.forget();
    const mine = this.pending.get(id);
    const one = { session, target: attaches.test(method) ? String(params.targetId) : target, said: step, at, method };
    if (mine) mine.push(one);
    else this.pending.set(id, [one]);
  }

  browser(message: Buffer, at: number): void {
    const head = message.toString('latin1', 0, 64);
    if (head.startsWith('{"method":"Target.attachedToTarget"'))
      return this.attached(parseJson(message)?.params as Json);
    if (head.startsWith('{"method":"Page.loadEventFired"')) return this.loaded(parseJson(message), at);
    const id = /^\{"id":(\d{1,15})\b/.exec(head)?.[1];
    if (id === undefined) return;
    const list = this.pending.get(Number(id));
    if (!list) return;
    const picture = list.some(({ method }) => method === 'Page.captureScreenshot');
    const answer = picture || message.length <= longestAnswer ? parseJson(message) : undefined;
    const index = answer ? list.findIndex(({ session }) => session === answer.sessionId) : 0;
    const one = list[index];
    if (!one) return;
    list.splice(index, 1);
    this.count--;
    if (list.length === 0) this.pending.delete(Number(id));
    this.answered(one, answer, at);
  }

  private answered({ target, said, at, method }: Pending, answer: Json | undefined, until: number): void {
    const result = (answer?.result ?? {}) as Json;
    if (method === 'Target.attachToTarget' && typeof result.sessionId === 'string' && target)
      this.targets.set(result.sessionId, target);
    if (!said || target === undefined) return;
    this.listener.busy(target, false);
    const error = answer?.error as { message?: unknown } | undefined;
    const value = error
      ? { error: 'unknown error', message: String(error.message) }
      : answer
        ? said.answer(result)
        : '(a long answer)';
    const { method: verb, path, body } = said;
    const step = { target, method: verb, path, body: bytes(body), answer: answerOf(value), at, until };
    if (method === 'Page.navigate' && !error) this.opening.set(target, { step });
    else this.listener.step(step);
  }

  private loaded(message: Json | undefined, at: number): void {
    const target = message && this.targetOf(sessionOf(message));
    const opening = target === undefined ? undefined : this.opening.get(target);
    if (opening) opening.loadedAt ??= at;
  }

  /** The client goes on with a page it opened: opening it took until it had loaded, where it was waited for. */
  private opened(target: string): void {
    const opening = this.opening.get(target);
    if (!opening) return;
    this.opening.delete(target);
    const { step, loadedAt } = opening;
    this.listener.step({ ...step, until: loadedAt ?? step.until });
  }

  private targetOf(session: string | undefined): string | undefined {
    return session === undefined ? this.page : this.targets.get(session);
  }

  private attached(params: Json | undefined): void {
    const { sessionId, targetInfo } = (params ?? {}) as {
      sessionId?: string;
      targetInfo?: { targetId?: string; browserContextId?: string };
    };
    if (sessionId === undefined || targetInfo?.targetId === undefined) return;
    this.targets.set(sessionId, targetInfo.targetId);
    if (targetInfo.browserContextId !== undefined) this.contexts.set(targetInfo.targetId, targetInfo.browserContextId);
  }

  /** What is open in a context is over with it. */
  private disposes(browserContext: string, at: number): void {
    for (const [target, owner] of this.contexts) {
      if (owner !== browserContext) continue;
      this.opened(target);
      this.joining.get(target)?.over(at);
      this.joining.delete(target);
      this.contexts.delete(target);
    }
    this.listener.disposes(browserContext);
  }

  private inputOf(target: string): InputJoining {
    let joining = this.joining.get(target);
    if (!joining)
      this.joining.set(
        target,
        (joining = new InputJoining(({ actions, at, until }) => {
          const step = { target, method: 'POST', path: '/actions', body: bytes({ actions }), at, until };
          this.listener.step({ ...step, answer: answerOf(null) });
        })),
      );
    return joining;
  }

  /** Time passes: input that nothing follows is over. */
  passes(now: number): void {
    for (const [target, { step, loadedAt }] of this.opening)
      if (loadedAt !== undefined || now - step.until > openOverMs) this.opened(target);
    for (const joining of this.joining.values())
      if (joining.opened !== undefined && now - joining.opened > inputOverMs) joining.over(now);
  }

  /** The connection is over, or its browser: all that is open is told. */
  end(now: number): void {
    for (const target of this.opening.keys()) this.opened(target);
    for (const joining of this.joining.values()) joining.over(now);
    for (const list of this.pending.values())
      for (const { target, said, at } of list)
        if (said && target !== undefined)
          this.listener.step({
            target,
            method: said.method,
            path: said.path,
            body: bytes(said.body),
            answer: undefined,
            at,
            until: now,
          });
    this.pending.clear();
  }

  private forget(): void {
    this.pending.clear();
    this.count = 0;
  }
}

const attaches = /^Target\.attachToTarget$/;
const sessionOf = ({ sessionId }: Json): string | undefined => (typeof sessionId === 'string' ? sessionId : undefined);
