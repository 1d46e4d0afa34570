import type { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import type { Owner } from '../../browser/owner.ts';
import { background } from '../../core/background.ts';
import type { DeliveredFile, IntakeResult } from '../../core/records.ts';
import type { Changes } from '../changes.ts';
import { newIntakeId } from '../ingest/delivered/intake.ts';
import type { IntakeProgress } from '../ingest/delivered/tools.ts';
import type { Seal } from '../ingest/delivered/sealed.ts';
import type { IntakeJob, SpooledFile } from '../ingest/delivered/intake-thread.ts';
import { patiently } from '../store/patience.ts';
import type { Store } from '../store/store.ts';
import type { AnalysisJobs } from './analysis.ts';
import { startThread } from './thread.ts';

type Reply =
  | { id: string; progress: IntakeProgress }
  | { id: string; fates: DeliveredFile[] }
  | { id: string; result: IntakeResult; passed?: string[] }
  | { id: string; problem: string };

/** What is known of a delivery while it is read. */
export interface IntakeState extends IntakeProgress {
  id: string;
  names: string[];
}

/** The open file a delivery lies in. Whoever hands it over has it closed here, once, however the delivery ends. */
export interface Spooled {
  fd: number;
  close(): void;
}

/** What is heard of a delivery while it is read. */
export interface Listener {
  progress(now: IntakeProgress): void;
  became(files: readonly DeliveredFile[]): void;
}

interface Waiting {
  job: IntakeJob;
  spool: Spooled;
  listener?: Listener;
  done(result: IntakeResult): void;
  fail(error: Error): void;
}

const nowhere: Spooled = { fd: -1, close: () => undefined };

/** Said when no more can wait in line. */
export class TooManyDeliveries extends Error {}

/** Most memory the reading thread may hold, MiB; a delivery that needs more fails alone. */
const mostMemory = 1024;
/** Short-lived texts are most of what reading makes; a small nursery keeps them from piling up, MiB. */
const nursery = 16;
/** Deliveries that wait at once, each with a file of its own on the disk. */
const mostWaiting = 40;
/** A thread that has told nothing for so long hangs in something it reads. */
const longestSilenceMs = 180_000;

/** Takes deliveries in, one after the other, in a thread of its own. */
export class IntakeJobs {
  private worker: Worker | undefined;
  private readonly queue: Waiting[] = [];
  private current: Waiting | undefined;
  private readonly states = new Map<string, IntakeState>();
  private closed = false;
  private silence: NodeJS.Timeout | undefined;
  /** What a stopped server had not finished reading is taken back whole, before anything new is read. */
  readonly tidied: Promise<unknown>;

  constructor(
    private readonly store: Store,
    private readonly changes: Changes,
    private readonly owner: Pick<Owner, 'next'>,
    private readonly log: Logger,
    private readonly analysis: Pick<AnalysisJobs, 'settle' | 'outgrows'>,
    private readonly silenceMs = longestSilenceMs,
  ) {
    this.tidied = this.takeBackAll(store.intakes.unfinished());
    background('taking back unfinished deliveries', this.tidied);
  }

  /** Deliveries being read or waiting for it. */
  running(): IntakeState[] {
    return [...this.states.values()];
  }

  /** Starts the reading thread while a delivery is still on its way. */
  warm(): void {
    if (!this.closed) this.thread();
  }

  /**
   * Takes a delivery in when its turn comes.
   * @param spool is closed here whatever happens
   * @throws Error in words when the delivery as a whole could not be taken; then nothing of it is kept
   */
  take(spool: Spooled, files: readonly SpooledFile[], fields: IntakeJob['fields']): Promise<IntakeResult> {
    if (this.closed || this.queue.length >= mostWaiting) {
      spool.close();
      const why = this.closed ? 'Iskel is being stopped' : `${mostWaiting} deliveries wait already`;
      return Promise.reject(new TooManyDeliveries(`${why}; nothing of this one was kept, give it again later`));
    }
    return this.queued(
      spool,
      { id: newIntakeId(), fd: spool.fd, files: [...files], fields },
      files.slice(0, 5).map(({ name }) => name),
    );
  }

  /** Takes in a delivery that lies sealed on the disk, when its turn comes. @returns how it is called until then */
  takeSealed(
    seal: Seal,
    files: readonly SpooledFile[],
    fields: IntakeJob['fields'],
    listener: Listener,
  ): { id: string; result: Promise<IntakeResult> } {
    const id = newIntakeId();
    if (this.closed || this.queue.length >= mostWaiting)
      throw new TooManyDeliveries(
        this.closed ? 'Iskel is being stopped' : `${mostWaiting} deliveries wait already; ask for this one again later`,
      );
    const names = files.slice(0, 5).map(({ name }) => name);
    return { id, result: this.queued(nowhere, { id, fd: -1, files: [...files], fields, seal }, names, listener) };
  }

  private queued(spool: Spooled, job: IntakeJob, names: string[], listener?: Listener): Promise<IntakeResult> {
    this.states.set(job.id, {
      id: job.id,
      names,
      doing: 'Waiting for its turn',
      done: 0,
      of: null,
    });
    return new Promise((done, fail) => {
      this.queue.push({ job, spool, done, fail, ...(listener ? { listener } : {}) });
      background('reading the next delivery', () => this.next());
    });
  }

  /** Sets the files of a run whose times name no zone to one, when its turn comes, and places them anew. */
  rezone(runId: string, minutes: number): Promise<IntakeResult> {
    return this.queued(nowhere, { id: newIntakeId(), fd: -1, files: [], fields: {}, rezone: { runId, minutes } }, [
      'files of a run, in another zone',
    ]);
  }

  /** Stops a delivery; what it had brought is taken back. False when it is not under way. */
  async stop(id: string): Promise<boolean> {
    const waiting = this.queue.findIndex(({ job }) => job.id === id);
    if (waiting >= 0) {
      this.end(
        this.queue.splice(waiting, 1)[0]!,
        new Error('it was stopped before it was read; nothing of it is kept'),
      );
      return true;
    }
    if (this.current?.job.id !== id) return false;
    await this.breakOff(new Error('it was stopped; nothing of it is kept'));
    return true;
  }

  /** Ends the thread, takes back what the delivery under way had brought, and tells its sender why. */
  private async breakOff(why: Error): Promise<void> {
    const { current, worker } = this;
    this.worker = undefined;
    clearTimeout(this.silence);
    await worker?.terminate();
    if (!current || this.current !== current) return;
    await this.takeBackAll([current.job.id]);
    this.end(current, why);
  }

  /** Takes back a delivery that was read long ago. */
  takeBack(id: string): Promise<void> {
    return this.takeBackAll([id]);
  }

  private async takeBackAll(ids: readonly string[]): Promise<void> {
    for (const id of ids) {
      let steps = this.store.intakes.undoing(id);
      for (;;) {
        const step = await patiently(() => {
          try {
            return steps.next();
          } catch (error) {
            // What threw is at its end; another one goes on where it was.
            steps = this.store.intakes.undoing(id);
            throw error;
          }
        });
        if (step.done) {
          for (const one of step.value ?? []) this.analysis.settle(one);
          break;
        }
        await new Promise((done) => setImmediate(done));
      }
    }
  }

  private async next(): Promise<void> {
    await this.tidied;
    if (this.current || this.closed) return;
    this.current = this.queue.shift();
    if (!this.current) return;
    this.thread().postMessage(this.current.job);
    this.watch();
  }

  private watch(): void {
    clearTimeout(this.silence);
    this.silence = setTimeout(() => {
      const why = `nothing was heard of its reading for ${this.silenceMs / 1000} s; it was stopped and nothing of it is kept. Give smaller parts of it to find which file it is`;
      this.log.error({ delivery: this.current?.job.id }, 'a delivery hung and was stopped');
      background('stopping a delivery that hangs', this.breakOff(new Error(why)));
    }, this.silenceMs);
    this.silence.unref();
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const { env } = this.owner.next();
    const worker = startThread(
      new URL('../ingest/delivered/intake-thread.ts', import.meta.url),
      { home: this.store.home, env: { ...env } },
      { resourceLimits: { maxOldGenerationSizeMb: mostMemory, maxYoungGenerationSizeMb: nursery } },
    );
    worker.on('message', (reply: Reply) => this.heard(reply));
    const failed = (error: Error): void => {
      if (this.worker !== worker) return;
      this.log.error({ problem: error.stack }, 'the thread that reads deliveries ended');
      background(
        'taking back a delivery',
        this.breakOff(
          new Error('reading it failed and nothing of it was kept; give smaller parts of it, or see the server log'),
        ),
      );
    };
    worker.on('error', (error) => failed(error as Error));
    worker.on('messageerror', failed);
    worker.on('exit', (code) => failed(new Error(`it ended with ${code}`)));
    worker.unref();
    return (this.worker = worker);
  }

  private heard(reply: Reply): void {
    const { current } = this;
    if (!current || current.job.id !== reply.id) return;
    this.watch();
    if ('fates' in reply) current.listener?.became(reply.fates);
    else if ('progress' in reply) {
      current.listener?.progress(reply.progress);
      const state = this.states.get(reply.id);
      if (state) Object.assign(state, reply.progress);
      this.changes.tell({ type: 'intake', id: reply.id, ...reply.progress });
    } else if ('result' in reply) {
      if (reply.result.runId) this.changes.tell({ type: 'run', id: reply.result.runId });
      if (reply.passed?.length) this.analysis.outgrows(reply.passed);
      this.end(current, reply.result);
    } else {
      this.log.error({ problem: reply.problem }, 'a delivery could not be taken in');
      this.end(
        current,
        new Error(`it could not be taken in and nothing of it was kept: ${reply.problem.split('\n')[0]}`),
      );
    }
  }

  private end(waiting: Waiting, outcome: IntakeResult | Error): void {
    waiting.spool.close();
    this.states.delete(waiting.job.id);
    if (this.current === waiting) {
      this.current = undefined;
      clearTimeout(this.silence);
    }
    this.changes.tell({
      type: 'intake',
      id: waiting.job.id,
      doing: outcome instanceof Error ? 'Failed' : 'Done',
      done: 0,
      of: null,
      ended: true,
    });
    if (outcome instanceof Error) waiting.fail(outcome);
    else waiting.done(outcome);
    background('reading the next delivery', () => this.next());
  }

  async close(): Promise<void> {
    this.closed = true;
    const why = new Error('Iskel was stopped; nothing of it is kept');
    for (const waiting of this.queue.splice(0)) this.end(waiting, why);
    await this.breakOff(why);
  }
}
