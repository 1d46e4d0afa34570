import { background } from '../../core/background.ts';
import type { Keeping } from '../../core/keeping/keeping.ts';
import type { KeepingPlan } from '../../core/keeping/plan.ts';
import type { KeepingView, KeepingWait, KeptNow } from '../../core/keeping/told.ts';
import type { RunWeight } from '../../core/records.ts';
import type { Changes } from '../changes.ts';
import type { Store } from '../store/store.ts';
import { AskedThread } from './thread.ts';

export type KeepingQuestion =
  | { about: 'plan'; keeping: Keeping }
  /** Sure: somebody said so, whatever goes. */
  | { about: 'let go'; keeping: Keeping; sure: boolean }
  | { about: 'weigh run'; run: string }
  | { about: 'remove run'; run: string };

/** It is looked after by itself so often, ms; the first time so long after the start. */
const everyMs = 3_600_000;
const firstMs = 60_000;
/** A server that did not run for longer, or whose clock says so, asks first. */
const longestPauseMs = 30 * 86_400_000;
/** Rules that were set within this were looked at, with what they let go of. */
const rulesFreshMs = 15 * 60_000;
/** How long the sizes that were added up hold, ms. */
const folderMs = 2000;
/** A folder of a terabyte takes its time. */
const longestMs = 6 * 3_600_000;

/** Lets go of what the rules of keeping do not keep, in a thread of its own: by itself, when the rules change, when it is asked. */
export class KeepingJobs {
  private readonly thread: AskedThread<KeepingQuestion, KeepingPlan | KeptNow | KeepingWait | RunWeight>;
  private running: KeepingView['running'] = null;
  private last: KeptNow | null = null;
  private problem: string | null = null;
  private waits: KeepingWait | null = null;
  /** Somebody said that it may go on. */
  private sure = false;
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
    const { running, last, problem, waits } = this;
    return { folder: this.folder.is, running, last, problem, waits };
  }

  /** What would be let go of. Waits where something is being let go of. */
  plan(keeping: Keeping): Promise<KeepingPlan> {
    return this.thread.ask({ about: 'plan', keeping }) as Promise<KeepingPlan>;
  }

  /** What a run takes, and what would go with it. */
  weighRun(run: string): Promise<RunWeight> {
    return this.thread.ask({ about: 'weigh run', run }) as Promise<RunWeight>;
  }

  /** Removes a run with all that only it has. */
  removeRun(run: string): Promise<RunWeight> {
    return this.thread.ask({ about: 'remove run', run }) as Promise<RunWeight>;
  }

  /**
   * A clock that is far from where it was last is not trusted by itself: a year ahead it would have everything let go of.
   * What is looked after is noted down only while it is trusted.
   */
  private clockJumped(now = Date.now()): KeepingWait | undefined {
    const { kept } = this.store;
    const before = kept.lookedAfter();
    if (before === undefined || this.sure || Math.abs(now - before) < longestPauseMs) {
      kept.looksAfter(now);
      return undefined;
    }
    const days = Math.round((now - before) / 86_400_000);
    return {
      why: 'clock',
      words: `The clock of this machine is ${Math.abs(days)} days ${days > 0 ? 'ahead of' : 'behind'} when evidence was last looked after. If it is right, say so; until then nothing is let go of.`,
    };
  }

  /**
   * Begins to let go of what is not kept; asked for while it does, it looks again at the end.
   * @param sure somebody looked at what goes, and said that it may
   */
  begin(sure = false): void {
    if (this.closed) return;
    if (sure) this.sure = true;
    const { keeping } = this.store.rules.get();
    if (this.running) {
      this.again = true;
      // What was planned by other rules does not go on.
      if (JSON.stringify(keeping) !== this.by) this.thread.say('stop');
      return;
    }
    // Nobody said that anything goes.
    if (keeping.budgetGb === null && keeping.terms.length === 0) return;
    this.waits = this.clockJumped() ?? null;
    if (this.waits) return this.tell();
    this.running = { done: 0, of: null };
    this.by = JSON.stringify(keeping);
    this.tell();
    background('letting go of evidence', this.letGo(keeping));
  }

  private async letGo(keeping: Keeping): Promise<void> {
    try {
      const sure = this.sure || this.closeToRules();
      const ended = (await this.thread.ask({ about: 'let go', keeping, sure })) as KeptNow | KeepingWait;
      if ('words' in ended) this.waits = ended;
      else this.last = ended;
      this.sure = false;
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

  /** Whoever just set the rules saw before what they would have done. */
  private closeToRules(): boolean {
    const set = this.store.rules.versions(1)[0];
    return set !== undefined && Math.abs(Date.now() - set.at) < rulesFreshMs;
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
