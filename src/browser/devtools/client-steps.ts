import { parseJson } from '../recording/command-body.ts';
import { elementKey } from '../recording/commands.ts';
import { answerOf, bytes } from '../recording/wire-answer.ts';
import { CarriedCalls } from './carried-calls.ts';
import type { Carried } from './carried.ts';
import { ClientElements } from './client-elements.ts';
import type { ClientListener, ClientStep } from './client-step.ts';
import { InputJoining } from './input-joining.ts';
import { givesFocus, Preparing } from './preparing.ts';
import { handedOut, isTool, saidByWebDriver, type Said } from './said-by-webdriver.ts';

type Json = Record<string, unknown>;

interface Pending {
  session: string | undefined;
  target: string | undefined;
  said: Said | undefined;
  carried: Carried | undefined;
  /** The element that the client works on by itself. */
  worked: string | undefined;
  at: number;
  method: string;
  params: Json;
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
  private readonly preparing = new Map<string, Preparing>();
  private readonly elements = new Map<string, ClientElements>();
  private readonly calls = new Map<string, CarriedCalls>();
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
    if (method === 'Target.createTarget') this.listener.begins(contextOf(params), at);
    if (method === 'Target.disposeBrowserContext') this.disposes(String(params.browserContextId), at);
    if (target !== undefined && inputs.test(method)) this.inputOf(target).take({ method, params, at });
    if (target !== undefined && method === 'Page.navigate') this.listener.opens(target, String(params.url));
    const elements = target === undefined ? undefined : this.elementsOf(target);
    const carried = target === undefined ? undefined : this.callsOf(target).reads(method, params);
    const isSaid = target !== undefined && !carried && !inputs.test(method);
    const step = isSaid ? saidByWebDriver(method, params, elements) : undefined;
    const worked = carried && elements && this.callsOf(target!).workedOn(carried, params, elements);
    if (worked !== undefined) this.listener.byItself(target!, worked, at);
    if (target !== undefined && (step ?? carried)) {
      this.inputOf(target).over(at);
      this.listener.busy(target, true);
    }
    if (elements) this.gives(method, params, elements);
    if (!step && !carried && !attaches.test(method) && !tellsOfElements.has(method)) return;
    if (++this.count > mostPending) this.forget();
    const mine = this.pending.get(id);
    const about = attaches.test(method) ? String(params.targetId) : target;
    const one = { session, target: about, said: step, carried, worked, at, method, params };
    if (mine) mine.push(one);
    else this.pending.set(id, [one]);
  }

  browser(message: Buffer, at: number): void {
    const head = message.toString('latin1', 0, 64);
    if (head.startsWith('{"method":"Target.attachedToTarget"'))
      return this.attached(parseJson(message)?.params as Json);
    if (head.startsWith('{"method":"Page.loadEventFired"')) return this.loaded(parseJson(message), at);
    if (head.startsWith('{"method":"Runtime.executionContextCreated"')) return this.world(parseJson(message));
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

  /** A page has one more world: its own, or one that the client made for itself. */
  private world(message: Json | undefined): void {
    const target = message && this.targetOf(sessionOf(message));
    const { context } = (message?.params ?? {}) as { context?: { id?: number; auxData?: { isDefault?: boolean } } };
    if (target !== undefined && context) this.callsOf(target).world(context.id, context.auxData?.isDefault === false);
  }

  private answered(one: Pending, answer: Json | undefined, until: number): void {
    const { target, method, params, carried, worked } = one;
    let { said, at } = one;
    const result = (answer?.result ?? {}) as Json;
    const elements = target === undefined ? undefined : this.elementsOf(target);
    if (tellsOfElements.has(method)) elements?.told(method, params, result, until);
    if (method === 'Target.attachToTarget' && typeof result.sessionId === 'string' && target)
      this.targets.set(result.sessionId, target);
    if (carried && target !== undefined && elements) {
      this.listener.busy(target, false);
      const understood = answer && this.callsOf(target).answered(carried, params, result, elements, at);
      // What is read is not changed.
      if (worked !== undefined) this.listener.byItself(target, worked, at, understood ? at : until);
      if (!understood) return;
      ({ said, at } = understood);
    } else if (said && target !== undefined) this.listener.busy(target, false);
    if (!said || target === undefined || isTool(method, params, result)) return;
    const error = answer?.error as { message?: unknown } | undefined;
    const message = error && String(error.message);
    const asked = handedOut(said, params, result) ?? said;
    const value =
      message !== undefined
        ? { error: gone.test(message) ? 'stale element reference' : 'unknown error', message }
        : answer
          ? asked.answer(result)
          : '(a long answer)';
    if (elements) this.handed(elements, asked, params, result, value, until);
    const { method: verb, path, body } = asked;
    const step = { target, method: verb, path, body: bytes(body), answer: answerOf(value), at, until };
    if (method === 'Page.navigate' && !error) this.opening.set(target, { step });
    else this.tell(step);
    const found = (value as Json | null)?.[elementKey];
    if (!asked.then || !elements || typeof found !== 'string') return;
    const read = asked.then.answer(result);
    elements.looks(found, read, until);
    const { method: get, path: look, body: none } = asked.then;
    this.tell({ target, method: get, path: look, body: bytes(none), answer: answerOf(read), at: until, until });
  }

  private tell(step: ClientStep): void {
    this.preparingOf(step.target).take(step);
  }

  private preparingOf(target: string): Preparing {
    let preparing = this.preparing.get(target);
    if (!preparing) this.preparing.set(target, (preparing = new Preparing((step) => this.listener.step(step))));
    return preparing;
  }

  /** The focus goes where the client says. */
  private gives(method: string, params: Json, elements: ClientElements): void {
    const focuses = method === 'DOM.focus' || givesFocus(String(params.functionDeclaration ?? ''));
    if (focuses) elements.focuses(elements.spokenOf(params));
    else if (method === 'Page.navigate' || method === 'Page.reload') elements.clear();
  }

  /** What an answer hands out, and says of what the client holds. */
  private handed(
    elements: ClientElements,
    { path }: Said,
    params: Json,
    result: Json,
    value: unknown,
    at: number,
  ): void {
    if (/^\/(?:element\/[^/]+\/)?elements?$/.test(path)) {
      for (const one of Array.isArray(value) ? (value as unknown[]) : [value]) {
        const name = one && typeof one === 'object' ? (one as Json)[elementKey] : undefined;
        if (typeof name === 'string') elements.hand(name);
      }
      const list = (result.result as Json | undefined)?.objectId;
      if (typeof list === 'string') elements.hand(list);
      return;
    }
    const element = elements.spokenOf(params);
    if (element !== undefined) elements.looks(element, value, at);
  }

  private elementsOf(target: string): ClientElements {
    let elements = this.elements.get(target);
    if (!elements) this.elements.set(target, (elements = new ClientElements()));
    return elements;
  }

  private callsOf(target: string): CarriedCalls {
    let calls = this.calls.get(target);
    if (!calls) this.calls.set(target, (calls = new CarriedCalls()));
    return calls;
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
    this.tell({ ...step, until: loadedAt ?? step.until });
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
      this.preparing.get(target)?.over();
      for (const map of [this.joining, this.preparing, this.elements, this.calls, this.contexts]) map.delete(target);
    }
    this.listener.disposes(browserContext, at);
  }

  private inputOf(target: string): InputJoining {
    let joining = this.joining.get(target);
    if (!joining)
      this.joining.set(
        target,
        (joining = new InputJoining((act) => {
          const { path, body } = this.elementsOf(target).acted(act) ?? {
            path: '/actions',
            body: { actions: act.actions },
          };
          const { at, until } = act;
          this.tell({ target, method: 'POST', path, body: bytes(body), at, until, answer: answerOf(null) });
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
    for (const preparing of this.preparing.values()) preparing.passes(now);
  }

  /** The connection is over, or its browser: all that is open is told. */
  end(now: number): void {
    for (const target of this.opening.keys()) this.opened(target);
    for (const joining of this.joining.values()) joining.over(now);
    for (const list of this.pending.values())
      for (const { target, said, at } of list)
        if (said && target !== undefined)
          this.tell({
            target,
            method: said.method,
            path: said.path,
            body: bytes(said.body),
            answer: undefined,
            at,
            until: now,
          });
    for (const preparing of this.preparing.values()) preparing.over();
    this.pending.clear();
  }

  private forget(): void {
    this.pending.clear();
    this.count = 0;
  }
}

/** Commands whose answers tell other names of an element, or where it is. */
const tellsOfElements: ReadonlySet<string> = new Set([
  'Runtime.getProperties',
  'DOM.describeNode',
  'DOM.requestNode',
  'DOM.resolveNode',
  'DOM.getContentQuads',
  'DOM.getBoxModel',
]);
/** What a browser says of an object whose page, or whose element, is no longer there. */
const gone =
  /Cannot find context|Could not find (?:object|node)|No node with given id|Node is detached|Node with given id does not/;

const attaches = /^Target\.attachToTarget$/;
const contextOf = ({ browserContextId }: Json): string | undefined =>
  typeof browserContextId === 'string' ? browserContextId : undefined;
const sessionOf = ({ sessionId }: Json): string | undefined => (typeof sessionId === 'string' ? sessionId : undefined);
