import { Worker, type WorkerOptions } from 'node:worker_threads';

/** A worker thread that runs one of our own TypeScript files. @param data what it finds as `workerData` */
export const startThread = (file: URL, data: Record<string, unknown>, options: WorkerOptions = {}): Worker =>
  new Worker(new URL('./thread-starter.mjs', import.meta.url), {
    ...options,
    workerData: { ...data, starts: file.href },
  });

type Reply<Answer> = { ask: number; answer: Answer } | { ask: number; problem: string };

/** A thread that answers what it is asked; started with the first question and kept, started anew when it dies. */
export class AskedThread<Question, Answer> {
  private worker: Worker | undefined;
  private readonly waiting = new Map<number, { done: (answer: Answer) => void; fail: (error: Error) => void }>();
  private count = 0;

  constructor(
    private readonly file: URL,
    private readonly data: Record<string, unknown>,
  ) {}

  /** How many questions it has not answered yet. */
  get asked(): number {
    return this.waiting.size;
  }

  ask(question: Question): Promise<Answer> {
    const ask = ++this.count;
    return new Promise((done, fail) => {
      this.waiting.set(ask, { done, fail });
      this.thread().postMessage({ ask, question });
    });
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const worker = startThread(this.file, this.data);
    worker.on('message', (reply: Reply<Answer>) => {
      const one = this.waiting.get(reply.ask);
      this.waiting.delete(reply.ask);
      if ('problem' in reply) one?.fail(new Error(reply.problem));
      else one?.done(reply.answer);
    });
    worker.on('error', (error) => {
      if (this.worker === worker) this.worker = undefined;
      this.failAll(error as Error);
    });
    // It may also end without a word, by an exit or when memory is out.
    worker.on('exit', (code) => {
      if (this.worker !== worker) return;
      this.worker = undefined;
      this.failAll(new Error(`the thread ended with ${code}`));
    });
    worker.unref();
    return (this.worker = worker);
  }

  private failAll(error: Error): void {
    const all = [...this.waiting.values()];
    this.waiting.clear();
    for (const { fail } of all) fail(error);
  }

  async close(): Promise<void> {
    this.failAll(new Error('the server is closing'));
    const { worker } = this;
    this.worker = undefined;
    await worker?.terminate();
  }
}
