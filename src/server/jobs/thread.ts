import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Worker, type WorkerOptions } from 'node:worker_threads';
import { background } from '../../core/background.ts';

/** Where a built program lies; its threads lie beside it. */
const built = fileURLToPath(new URL('../../../dist/server/', import.meta.url));

/** A worker thread that runs one of our own TypeScript files. @param data what it finds as `workerData` */
export function startThread(file: URL, data: Record<string, unknown>, options: WorkerOptions = {}): Worker {
  const workerData = { ...data, starts: file.href };
  const program = process.argv[1] ?? '';
  const starts = program.startsWith(built)
    ? join(built, basename(file.pathname).replace(/ts$/, 'mjs'))
    : new URL('./thread-starter.mjs', import.meta.url);
  return new Worker(starts, { ...options, workerData });
}

type Reply<Answer> = { ask: number; answer: Answer } | { ask: number; problem: string };

/** Nothing that is asked takes longer than this by honest work. */
const longestAnswerMs = 120_000;

/** A thread did not answer within its time. What it was asked should not be asked again as it was. */
export class ThreadHung extends Error {}

interface Waiting<Answer> {
  done: (answer: Answer) => void;
  fail: (error: Error) => void;
  timer: NodeJS.Timeout;
}

/** A thread that answers what it is asked; started with the first question and kept, started anew when it dies. */
export class AskedThread<Question, Answer> {
  private worker: Worker | undefined;
  /** Told what the thread says without having been asked. */
  heard: ((message: unknown) => void) | undefined;
  private readonly waiting = new Map<number, Waiting<Answer>>();
  private count = 0;

  constructor(
    private readonly file: URL,
    private readonly data: Record<string, unknown>,
    private readonly limitMs = longestAnswerMs,
  ) {}

  /** How many questions it has not answered yet. */
  get asked(): number {
    return this.waiting.size;
  }

  /**
   * @param handedOver memory of the question that is the thread's from now on
   * @throws ThreadHung when there is no answer in time; the thread is ended then
   */
  ask(question: Question, handedOver: ArrayBuffer[] = []): Promise<Answer> {
    const ask = ++this.count;
    return new Promise((done, fail) => {
      const timer = setTimeout(() => this.hung(ask), this.limitMs);
      timer.unref();
      this.waiting.set(ask, { done, fail, timer });
      this.thread().postMessage({ ask, question }, handedOver);
    });
  }

  /** Tells the thread something that it does not answer; nothing when it does not run. */
  say(message: string): void {
    this.worker?.postMessage(message);
  }

  private take(ask: number): Waiting<Answer> | undefined {
    const one = this.waiting.get(ask);
    clearTimeout(one?.timer);
    this.waiting.delete(ask);
    return one;
  }

  /** Who waits the longest is what the thread hangs at; the others are told that it was ended. */
  private hung(ask: number): void {
    this.take(ask)?.fail(new ThreadHung(`there was no answer for ${this.limitMs / 1000} s`));
    this.drop(new Error('the thread was ended, because it hung at something else'));
  }

  private drop(why: Error): void {
    const { worker } = this;
    this.worker = undefined;
    if (worker) background('ending a thread', worker.terminate());
    this.failAll(why);
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const worker = startThread(this.file, this.data);
    worker.on('message', (reply: Reply<Answer> | { ask?: undefined }) => {
      if (reply.ask === undefined) return void this.heard?.(reply);
      const one = this.take(reply.ask);
      if ('problem' in reply) one?.fail(new Error(reply.problem));
      else one?.done(reply.answer);
    });
    const failed = (error: unknown): void => {
      if (this.worker === worker) this.drop(error as Error);
    };
    worker.on('error', failed);
    worker.on('messageerror', failed);
    // It may also end without a word, by an exit or when memory is out.
    worker.on('exit', (code) => failed(new Error(`the thread ended with ${code}`)));
    worker.unref();
    return (this.worker = worker);
  }

  private failAll(error: Error): void {
    for (const ask of [...this.waiting.keys()]) this.take(ask)?.fail(error);
  }

  async close(): Promise<void> {
    this.failAll(new Error('the server is closing'));
    const { worker } = this;
    this.worker = undefined;
    await worker?.terminate();
  }
}
