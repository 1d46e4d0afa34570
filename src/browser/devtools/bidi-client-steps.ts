import { BidiSteps, type StepTaker } from '../recording/bidi-steps.ts';
import { parseJson } from '../recording/command-body.ts';
import type { ClientListener } from './client-step.ts';

type Json = Record<string, unknown>;

/** Isolated contexts that were asked for and are not told yet. */
const mostMaking = 1000;

/** What a client says over BiDi to a browser that it started itself, as steps in their windows. */
export class BidiClientSteps {
  private readonly steps: BidiSteps;
  /** Commands that make an isolated context. */
  private readonly making = new Set<number>();

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
    if (method === 'browser.createUserContext' && typeof id === 'number' && this.making.size < mostMaking)
      this.making.add(id);
    const { userContext } = (params ?? {}) as Json;
    if (method === 'browser.removeUserContext' && typeof userContext === 'string')
      this.listener.disposes(userContext, at);
  }

  browser(message: string, until: number): void {
    const id = Number(/"id":(\d{1,16})\b/.exec(message.slice(0, 200))?.[1]);
    if (this.making.delete(id)) {
      const { userContext } = (parseJson(Buffer.from(message))?.result ?? {}) as Json;
      if (typeof userContext === 'string') this.listener.begins(userContext, until);
    }
    this.steps.driver(message, until);
  }

  passes(): void {}

  end(until: number): void {
    this.steps.end(until);
  }
}
