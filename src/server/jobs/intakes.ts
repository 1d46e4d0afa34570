import { closeSync, fstatSync } from 'node:fs';
import type { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import type { Owner } from '../../browser/owner.ts';
import type { IntakeResult } from '../../core/records.ts';
import type { Changes } from '../changes.ts';
import { newIntakeId } from '../intake/intake.ts';
import type { IntakeProgress } from '../intake/tools.ts';
import type { IntakeJob } from '../intake/intake-thread.ts';
import type { Store } from '../store/store.ts';
import { startThread } from './thread.ts';

type Reply =
  { id: string; progress: IntakeProgress } | { id: string; result: IntakeResult } | { id: string; problem: string };

/** What is known of a delivery while it is read. */
export interface IntakeState extends IntakeProgress {
  id: string;
  names: string[];
}

interface Waiting {
  job: IntakeJob;
  done(result: IntakeResult): void;
  fail(error: Error): void;
}

/** Most memory the reading thread may hold, MiB; a delivery that needs more fails alone. */
const mostMemory = 1024;
/** Short-lived texts are most of what reading makes; a small nursery keeps them from piling up, MiB. */
const nursery = 16;

/** Takes deliveries in, one after the other, in a thread of its own. */
export class IntakeJobs {
  private worker: Worker | undefined;
  private readonly queue: Waiting[] = [];
  private current: Waiting | undefined;
  private readonly states = new Map<string, IntakeState>();
  private closed = false;
  /** Spools of each delivery, to be let go when its thread could not. */
  private readonly held = new Map<string, { fd: number; ino: number }[]>();

  constructor(
    private readonly store: Store,
    private readonly changes: Changes,
    private readonly owner: Pick<Owner, 'next'>,
    private readonly log: Logger,
  ) {
    // What a stopped server had not finished reading is taken back whole.
    for (const id of store.intakes.unfinished()) store.intakes.undo(id);
  }

  /** Deliveries being read or waiting for it. */
  running(): IntakeState[] {
    return [...this.states.values()];
  }

  /** Starts the reading thread while a delivery is still on its way. */
  warm(): void {
    if (!this.closed) this.thread();
  }

  /** @throws Error in words when the delivery as a whole could not be taken; then nothing of it is kept */
  take(files: IntakeJob['files'], fields: IntakeJob['fields']): Promise<IntakeResult> {
    const job: IntakeJob = { id: newIntakeId(), files, fields };
    this.held.set(
      job.id,
      files.flatMap((file) => ('fd' in file ? [{ fd: file.fd, ino: fstatSync(file.fd).ino }] : [])),
    );
    this.states.set(job.id, {
      id: job.id,
      names: files.slice(0, 5).map(({ name }) => name),
      doing: 'Waiting for its turn',
      done: 0,
      of: null,
    });
    return new Promise((done, fail) => {
      this.queue.push({ job, done, fail });
      this.next();
    });
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
    const { current } = this;
    await this.worker?.terminate();
    this.worker = undefined;
    this.store.intakes.undo(id);
    this.end(current, new Error('it was stopped; nothing of it is kept'));
    return true;
  }

  private next(): void {
    if (this.current || this.closed) return;
    this.current = this.queue.shift();
    if (this.current) this.thread().postMessage(this.current.job);
  }

  private thread(): Worker {
    if (this.worker) return this.worker;
    const { env } = this.owner.next();
    const worker = startThread(
      new URL('../intake/intake-thread.ts', import.meta.url),
      { home: this.store.home, env: { ...env } },
      {
        resourceLimits: { maxOldGenerationSizeMb: mostMemory, maxYoungGenerationSizeMb: nursery },
        // The thread closes descriptors the server opened for it.
        trackUnmanagedFds: false,
      },
    );
    worker.on('message', (reply: Reply) => this.heard(reply));
    worker.on('error', (error) => {
      this.worker = undefined;
      const { current } = this;
      if (!current) return;
      this.log.error({ problem: error.stack }, 'a delivery could not be taken in');
      this.store.intakes.undo(current.job.id);
      this.end(
        current,
        new Error('reading it failed and nothing of it was kept; give smaller parts of it, or see the server log'),
      );
    });
    worker.unref();
    return (this.worker = worker);
  }

  private heard(reply: Reply): void {
    const { current } = this;
    if (!current || current.job.id !== reply.id) return;
    if ('progress' in reply) {
      const state = this.states.get(reply.id);
      if (state) Object.assign(state, reply.progress);
      this.changes.tell({ type: 'intake', id: reply.id, ...reply.progress });
    } else if ('result' in reply) {
      if (reply.result.runId) this.changes.tell({ type: 'run', id: reply.result.runId });
      this.end(current, reply.result);
    } else {
      this.log.error({ problem: reply.problem }, 'a delivery could not be taken in');
      this.end(
        current,
        new Error(`it could not be taken in and nothing of it was kept: ${reply.problem.split('\n')[0]}`),
      );
    }
  }

  /** Closes what a thread left open; a descriptor that is another file by now is let be. */
  private letGo(id: string): void {
    for (const { fd, ino } of this.held.get(id) ?? []) {
      try {
        if (fstatSync(fd).ino === ino) closeSync(fd);
      } catch {
        // It is closed already.
      }
    }
    this.held.delete(id);
  }

  private end(waiting: Waiting, outcome: IntakeResult | Error): void {
    this.letGo(waiting.job.id);
    this.states.delete(waiting.job.id);
    if (this.current === waiting) this.current = undefined;
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
    this.next();
  }

  async close(): Promise<void> {
    this.closed = true;
    const { current } = this;
    await this.worker?.terminate();
    if (current) this.store.intakes.undo(current.job.id);
  }
}
