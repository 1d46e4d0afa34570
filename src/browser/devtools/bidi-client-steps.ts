import { BidiSteps, type StepTaker } from '../recording/bidi-steps.ts';
import { parseJson } from '../recording/command-body.ts';
import type { ClientListener } from './client-step.ts';

type Json = Record<string, unknown>;

/** Isolated contexts that were asked for and are not told yet. */
const mostAsked = 1000;

/** What a client says over BiDi to a browser that it started itself, as steps in their windows. */
export class BidiClientSteps {
  private readonly steps: BidiSteps;
  /** Commands that make or remove an isolated context. */
  private readonly contexts = new Map<number, { made: true } | { removed: string }>();

  constructor(private readonly listener: ClientListener) {
    // Which window a command is about is told with it; turning to another is no step of the client's.
    const taker: StepTaker = {
      begin: (_method, path, body, target) => {
        if (target === undefined) return;
        const address = path === '/url' ? parseJson(body)?.url : undefined;
        if (typeof address === 'string') listener.opens(target, address);
        listener.busy(target, true);
      },
      commands: { meanwhile: () => undefined },
      later: (work) => work(),
      took: (method, path, body, answer, at, until, target) => {
        if (target === undefined) return;
        listener.busy(target, false);
        listener.step({ target, method, path, body, answer, at, until });
      },
    };
    this.steps = new BidiSteps(taker, false);
  }

  client(message: string, at: number): void {
    if (message.includes('UserContext')) this.asks(parseJson(Buffer.from(message)) ?? {}, at);
    this.steps.client(message, at);
  }

  private asks({ id, method, params }: Json, at: number): void {
    if (typeof id !== 'number' || this.contexts.size >= mostAsked) return;
    if (method === 'browser.createUserContext') this.contexts.set(id, { made: true });
    const { userContext } = (params ?? {}) as Json;
    if (method === 'browser.removeUserContext' && typeof userContext === 'string') {
      this.contexts.set(id, { removed: userContext });
      this.listener.disposes(userContext, at);
    }
  }

  browser(message: string, until: number): void {
    const id = Number(/"id":(\d{1,16})\b/.exec(message.slice(0, 200))?.[1]);
    const asked = this.contexts.get(id);
    this.contexts.delete(id);
    const { userContext } = ((asked ? parseJson(Buffer.from(message)) : undefined)?.result ?? {}) as Json;
    if (asked && 'made' in asked && typeof userContext === 'string') this.listener.begins(userContext, until);
    this.steps.driver(message, until);
  }

  passes(): void {}

  end(until: number): void {
    this.steps.end(until);
  }
}
