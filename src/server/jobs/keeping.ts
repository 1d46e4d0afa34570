import { background } from '../../core/background.ts';
import type { Keeping } from '../../core/keeping/keeping.ts';
import type { KeepingPlan } from '../../core/keeping/plan.ts';
import type { KeepingView, KeptNow } from '../../core/keeping/told.ts';
import type { Changes } from '../changes.ts';
import type { Store } from '../store/store.ts';
import { AskedThread } from './thread.ts';

export type KeepingQuestion = { about: 'plan'; keeping: Keeping } | { about: 'let go'; keeping: Keeping };

/** It is looked after by itself so often, ms; the first time so long after the start. */
const everyMs = 3_600_000;
const firstMs = 60_000;
/** How long the sizes that were added up hold, ms. */
const folderMs = 2000;
/** A folder of a terabyte takes its time. */
const longestMs = 6 * 3_600_000;

/** Lets go of what the rules of keeping do not keep, in a thread of its own: by itself, when the rules change, when it is asked. */
export class KeepingJobs {
  private readonly thread: AskedThread<KeepingQuestion, KeepingPlan | KeptNow>;
  private running: KeepingView['running'] = null;
  private last: KeptNow | null = null;
  private problem: string | null = null;
  private again = false;
  /** The rules that it goes by. */
  private by = '';
  private folder: { at: number; is: KeepingView['folder'] } | undefined;
  private closed = false;
  private timer: NodeJS.Timeout;

  constructor(
    private readonly store: Store,
    private readonly changes: Changes,
    /** What was taken in within this is not removed yet. */
    freshMs = 60_000,
  ) {
    this.thread = new AskedThread(
      new URL('./keeping-thread.ts', import.meta.url),
      { home: store.home, freshMs },
      longestMs,
    );
    this.thread.heard = (message) => this.progressed(message);
    this.timer = this.soon(firstMs);
  }

  private soon(ms: number): NodeJS.Timeout {
    const timer = setTimeout(() => {
      this.begin();
      this.timer = this.soon(everyMs);
    }, ms);
    timer.unref();
    return timer;
  }

  view(): KeepingView {
    // Of a million files it takes a while to be added up.
    if (!this.folder || Date.now() - this.folder.at > folderMs)
      this.folder = { at: Date.now(), is: this.store.kept.folder() };
    return { folder: this.folder.is, running: this.running, last: this.last, problem: this.problem };
  }

  /** What would be let go of. Waits where something is being let go of. */
  plan(keeping: Keeping): Promise<KeepingPlan> {
    return this.thread.ask({ about: 'plan', keeping }) as Promise<KeepingPlan>;
  }

  /** Begins to let go of what is not kept; asked for while it does, it looks again at the end. */
  begin(): void {
    if (this.closed) return;
    const { keeping } = this.store.rules.get();
    if (this.running) {
      this.again = true;
      // What was planned by other rules does not go on.
      if (JSON.stringify(keeping) !== this.by) this.thread.say('stop');
      return;
    }
    // Nobody said that anything goes.
    if (keeping.budgetGb === null && keeping.terms.length === 0) return;
    this.running = { done: 0, of: null };
    this.by = JSON.stringify(keeping);
    this.tell();
    background('letting go of evidence', this.letGo(keeping));
  }

  private async letGo(keeping: Keeping): Promise<void> {
    try {
      this.last = (await this.thread.ask({ about: 'let go', keeping })) as KeptNow;
      this.problem = null;
    } catch (error) {
      if (!this.closed) this.problem = (error as Error).message.split('\n')[0]!;
    }
    this.running = null;
    this.tell();
    const { again } = this;
    this.again = false;
    if (again) this.begin();
  }

  /** What was let go of already stays so; what follows is kept. */
  stop(): void {
    this.again = false;
    this.thread.say('stop');
  }

  private progressed(message: unknown): void {
    const { progress } = message as { progress?: { done: number; of: number } };
    if (!progress || !this.running) return;
    this.running = progress;
    this.tell();
  }

  private tell(): void {
    this.changes.tell({ type: 'keeping', id: '' });
  }

  async close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.timer);
    this.stop();
    await this.thread.close();
  }
}
