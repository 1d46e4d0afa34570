import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { analysisVersion, type Analysis } from '../../core/analyse.ts';
import { priorsOf, type Priors } from '../../core/causes/learning.ts';
import { environmentKey } from '../../core/evidence/attempt.ts';
import type { AttemptFacts } from '../../core/evidence/prepare.ts';
import type { Changes } from '../changes.ts';
import type { FindDoc } from '../store/find.ts';
import type { Store } from '../store/store.ts';

/** Most attempts that a new verdict is brought to bear on. */
const mostRelearnt = 300;

/** What the thread is given to do. */
export interface AnalysisTask {
  id: string;
  facts: AttemptFacts;
  about: { test: string; environmentKey: string; startedAt: number; commit?: string };
  priors: Priors;
}

type Reply = { id: string; analysis: Analysis; words: FindDoc } | { id: string; problem: string };

/** Analyses attempts as they settle, one after the other, in a worker thread. */
export class AnalysisJobs {
  private worker: Worker | undefined;
  private readonly queue = new Set<string>();
  private current: string | undefined;
  /** What the verdicts make likely, asked for once while attempts stand in line. */
  private priors: Priors | undefined;
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

  /** A verdict was given or taken back: what it makes likely bears on all that failed lately. */
  relearn(): void {
    this.priors = undefined;
    for (const id of this.store.attempts.failedLately(mostRelearnt)) this.queue.add(id);
    this.next();
  }

  private next(): void {
    if (this.current || this.closed) return;
    const [id] = this.queue;
    if (!id) {
      this.priors = undefined;
      return;
    }
    this.queue.delete(id);
    const attempt = this.store.attempts.get(id);
    if (!attempt || attempt.state === 'recording') return this.next();
    this.current = id;
    const { outcome, message, stack, environment } = attempt;
    const { file } = attempt.test;
    const { commit } = this.store.runs.get(attempt.runId) ?? {};
    this.thread().postMessage({
      id,
      facts: { outcome, message, stack, environment, file, rules: this.store.rules.frames() },
      about: {
        test: attempt.test.id,
        environmentKey: environmentKey(attempt.environment),
        startedAt: attempt.startedAt,
        commit: commit ?? undefined,
      },
      priors: (this.priors ??= priorsOf(this.store.families.confirmed(), Date.now())),
    } satisfies AnalysisTask);
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
    // A passing attempt more may tell more of those that failed before it.
    if (attempt?.outcome === 'passed' && attempt.seriesId === null && 'analysis' in reply)
      for (const id of store.sketches.outgrown(attempt.test.id, environmentKey(attempt.environment)))
        this.queue.add(id);
    if (attempt)
      this.changes.tell({ type: 'attempt', id: attempt.id, runId: attempt.runId, seriesId: attempt.seriesId });
    this.next();
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.worker?.terminate();
  }
}
