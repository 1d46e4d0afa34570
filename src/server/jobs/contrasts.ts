import { Worker } from 'node:worker_threads';
import type { ContrastView } from '../../core/contrast/view.ts';

/** What the thread is given to do. */
export interface ContrastTask {
  ask: number;
  failing: readonly string[];
  passing: readonly string[];
}
type Reply = { ask: number; view: ContrastView | null } | { ask: number; problem: string };

/** Contrasts as they are asked for, in a thread that is started with the first and kept. */
export class Contrasts {
  private worker: Worker | undefined;
  private readonly waiting = new Map<
    number,
    { done: (view: ContrastView | null) => void; fail: (error: Error) => void }
  >();
  private count = 0;

  constructor(private readonly home: string) {}

  /** @returns null when none of the failing attempts has been analysed yet */
  of(failing: readonly string[], passing: readonly string[]): Promise<ContrastView | null> {
    const ask = ++this.count;
    return new Promise((done, fail) => {
      this.waiting.set(ask, { done, fail });
      this.thread().postMessage({ ask, failing, passing } satisfies ContrastTask);
    });
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('./contrast-worker.mjs', import.meta.url), { workerData: { home: this.home } });
    worker.on('message', (reply: Reply) => {
      const one = this.waiting.get(reply.ask);
      this.waiting.delete(reply.ask);
      if ('view' in reply) one?.done(reply.view);
      else one?.fail(new Error(reply.problem));
    });
    worker.on('error', (error) => {
      this.worker = undefined;
      for (const { fail } of this.waiting.values()) fail(error);
      this.waiting.clear();
    });
    worker.unref();
    return (this.worker = worker);
  }

  async close(): Promise<void> {
    for (const { fail } of this.waiting.values()) fail(new Error('the server is closing'));
    this.waiting.clear();
    await this.worker?.terminate();
  }
}
