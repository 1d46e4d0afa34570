import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { analysisVersion, type Analysis } from '../../core/analyse.ts';
import type { Changes } from '../changes.ts';
import type { FindDoc } from '../store/find.ts';
import type { Store } from '../store/store.ts';

type Reply = { id: string; analysis: Analysis; words: FindDoc } | { id: string; problem: string };

/** Analyses attempts as they settle, one after the other, in a worker thread. */
export class AnalysisJobs {
  private worker: Worker | undefined;
  private readonly queue = new Set<string>();
  private current: string | undefined;
  private closed = false;

  constructor(
    private readonly store: Store,
    private readonly changes: Changes,
    private readonly log: Logger,
  ) {}

  /** Puts an attempt in line; one already in line is analysed once. */
  settle(id: string): void {
    this.queue.add(id);
    this.next();
  }

  /** Everything a stopped server left unsettled, and what older rules analysed. */
  resume(): void {
    for (const id of [
      ...this.store.attempts.inState('settling'),
      ...this.store.attempts.olderThanAnalysis(analysisVersion),
    ])
      this.settle(id);
  }

  private next(): void {
    if (this.current || this.closed) return;
    const [id] = this.queue;
    if (!id) return;
    this.queue.delete(id);
    const attempt = this.store.attempts.get(id);
    if (!attempt || attempt.state === 'recording') return this.next();
    this.current = id;
    const { outcome, message, stack, environment } = attempt;
    const { file } = attempt.test;
    this.thread().postMessage({
      id,
      facts: { outcome, message, stack, environment, file, rules: this.store.rules.frames() },
    });
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(new URL('./analysis-worker.mjs', import.meta.url), {
      workerData: { home: this.store.home },
    });
    worker.on('message', (reply: Reply) => this.done(reply));
    worker.on('error', (error) => {
      this.worker = undefined;
      if (this.current) this.done({ id: this.current, problem: error.stack ?? error.message });
    });
    worker.unref();
    return (this.worker = worker);
  }

  private done(reply: Reply): void {
    this.current = undefined;
    const { store } = this;
    if ('analysis' in reply) {
      store.together(() => store.settle(reply.id, reply.analysis, reply.words));
    } else {
      this.log.error({ attempt: reply.id, problem: reply.problem }, 'an attempt could not be analysed');
      store.attempts.setState(reply.id, 'ready');
    }
    const attempt = store.attempts.get(reply.id);
    if (attempt)
      this.changes.tell({ type: 'attempt', id: attempt.id, runId: attempt.runId, seriesId: attempt.seriesId });
    this.next();
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.worker?.terminate();
  }
}
