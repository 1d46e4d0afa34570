import { availableParallelism } from 'node:os';
import type { Logger } from 'pino';
import { asError, background, guarded, trouble } from '../../core/background.ts';
import type { EvidenceEvent } from '../../core/evidence/event.ts';
import { analysisVersion } from '../../core/analyse.ts';
import { priorsOf, type Priors } from '../../core/causes/learning.ts';
import type { Attempt } from '../../core/records.ts';
import { environmentKey } from '../../core/evidence/attempt.ts';
import { levels } from '../../core/keeping/keeping.ts';
import { scoreSuspects } from '../../core/causes/score.ts';
import type { Changes } from '../changes.ts';
import { toJudge, type Analysed, type AttemptToJudge } from '../ingest/analyse-stored.ts';
import type { Store } from '../store/store.ts';
import { patiently } from '../store/patience.ts';
import { AskedThread, ThreadHung } from './thread.ts';

/** Most attempts that a new verdict is brought to bear on, and how many of them without letting others in between. */
const mostRelearnt = 300;
const judgedAtOnce = 20;

/** When so many passing attempts are there, those that failed before are judged anew: each time twice as much is known. */
const ordinarySteps: ReadonlySet<number> = new Set([12, 25, 50, 100, 200, 400, 800]);
const mostOrdinary = 1500;

/** What the thread is given to do. */
export interface AnalysisTask {
  attempt: AttemptToJudge;
  priors: Priors;
}

/** While a test runs, one thread is enough: its browser needs the rest of the machine. */
const threadsBesideTests = 1;
const mostThreads = 4;

/** Analyses attempts as they settle, in worker threads. */
export class AnalysisJobs {
  private readonly threads: AskedThread<AnalysisTask, Analysed>[];
  private readonly queue = new Set<string>();
  /** Attempts that a thread is at. */
  private readonly under = new Set<string>();
  /** What the verdicts make likely, asked for once while attempts stand in line. */
  private priors: Priors | undefined;
  /** Counts the verdicts given and taken back: what was asked for before the last one leans as before it. */
  private lesson = 0;
  private closed = false;

  constructor(
    private readonly store: Store,
    private readonly changes: Changes,
    private readonly log: Logger,
    limitMs?: number,
  ) {
    this.threads = Array.from(
      { length: Math.min(mostThreads, availableParallelism()) },
      () => new AskedThread(new URL('./analysis-thread.ts', import.meta.url), { home: store.home }, limitMs),
    );
  }

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

  /**
   * A verdict was given or taken back: what it makes likely bears on all that failed lately. Their clues stay what
   * they are; only what these make likely is told anew.
   */
  relearn(): void {
    this.priors = undefined;
    const lesson = ++this.lesson;
    const ids = this.store.attempts.failedLately(mostRelearnt);
    background('bringing a verdict to bear', async () => {
      // A later verdict brings all of them up again.
      while (ids.length && !this.closed && lesson === this.lesson) {
        const some = ids.splice(0, judgedAtOnce);
        await patiently(() => this.judge(some));
        await new Promise((done) => setImmediate(done));
      }
    });
  }

  private judge(ids: readonly string[]): void {
    const { attempts } = this.store;
    const priors = this.learnt();
    this.store.together(() => {
      for (const id of ids) {
        const outcome = attempts.get(id)?.outcome;
        const clues = attempts.clues(id);
        if (outcome) attempts.judge(id, clues, scoreSuspects(clues, outcome, priors));
      }
    });
    for (const id of ids) this.tell(id);
  }

  private learnt(): Priors {
    return (this.priors ??= priorsOf(this.store.families.confirmed(), Date.now()));
  }

  private tell(id: string): void {
    const attempt = this.store.attempts.get(id);
    if (attempt) this.changes.tell({ type: 'attempt', id, runId: attempt.runId, seriesId: attempt.seriesId });
  }

  private next(): void {
    while (!this.closed && this.queue.size) {
      const free = this.threads.slice(0, this.allowed()).find((thread) => thread.asked === 0);
      // One that is at work already, on what it was before, waits until that is done.
      const id = [...this.queue].find((one) => !this.under.has(one));
      if (!free || id === undefined) return;
      this.queue.delete(id);
      background('analysing an attempt', this.analyse(id, free), id);
    }
    if (this.queue.size === 0 && this.under.size === 0) this.priors = undefined;
  }

  private allowed(): number {
    return this.store.attempts.inState('recording').length ? threadsBesideTests : this.threads.length;
  }

  private async analyse(id: string, thread: AskedThread<AnalysisTask, Analysed>): Promise<void> {
    this.under.add(id);
    const { lesson } = this;
    try {
      const task = this.taskFor(id);
      if (!task) return;
      const { analysis, words } = await thread.ask(task);
      if (this.closed) return;
      await this.store.patiently(() => this.store.settle(id, analysis, words));
      if (lesson !== this.lesson) await patiently(() => this.judge([id]));
      this.outgrow(id);
      this.join(id);
    } catch (error) {
      if (!this.closed) await this.giveUp(id, asError(error));
    } finally {
      this.under.delete(id);
      if (!this.closed) {
        guarded('telling of an analysis', () => this.tell(id), id);
        this.next();
      }
    }
  }

  /** What cannot be analysed says so itself, and is not tried again before the rules change. */
  private async giveUp(id: string, error: Error): Promise<void> {
    this.log.error({ attempt: id, problem: error.stack ?? error.message }, 'an attempt could not be analysed');
    const why =
      error instanceof ThreadHung
        ? `it took longer than Iskel waits (${error.message})`
        : `it failed (${error.message.split('\n')[0]!.slice(0, 200)})`;
    const note: EvidenceEvent = {
      id: 'analysis',
      lane: 'note',
      kind: 'recorder',
      at: 0,
      clock: 'recorder',
      data: { label: `This attempt could not be analysed: ${why}. Its evidence is all here.`, ok: false },
    };
    await this.store
      .patiently(() => {
        if (!this.store.attempts.get(id)) return;
        this.store.events.write(id, [note], true);
        this.store.attempts.gaveUp(id, analysisVersion);
      })
      .catch((failed: unknown) => trouble('noting that an analysis failed', failed, id));
  }

  private taskFor(id: string): AnalysisTask | undefined {
    const attempt = this.store.attempts.get(id);
    if (!attempt || attempt.state === 'recording') return undefined;
    if (this.store.kept.of(id).level !== levels.whole) {
      // What was found in it was found in more than is left: it stands.
      this.store.attempts.gaveUp(id, analysisVersion);
      return undefined;
    }
    const { commit } = this.store.runs.get(attempt.runId) ?? {};
    return { attempt: toJudge(attempt, commit, this.store.rules.get()), priors: this.learnt() };
  }

  /** Attempts that passed were judged elsewhere: those that failed before them may be told more of. */
  outgrows(passed: readonly string[]): void {
    for (const id of passed) guarded('looking what a passing attempt tells of others', () => this.outgrow(id), id);
    this.next();
  }

  /** A passing attempt more may tell more of those that failed before it. */
  private outgrow(id: string): void {
    const attempt = this.store.attempts.get(id);
    if (!attempt || attempt.seriesId !== null) return;
    if (attempt.outcome !== 'passed') return this.catchUp(id, attempt);
    for (const one of this.store.sketches.outgrown(attempt.test.id, environmentKey(attempt.environment)))
      this.queue.add(one);
    this.ordinary ??= this.store.sketches.passingUpTo(mostOrdinary) - 1;
    if (!ordinarySteps.has(++this.ordinary)) return;
    for (const one of this.store.sketches.judgedWithLess(this.ordinary)) this.queue.add(one);
  }

  /** Passing attempts that settled while one that fails was being judged are not missed: it is judged once more. */
  private catchUp(id: string, { test, environment }: Attempt): void {
    if (this.catching.has(id)) return void this.catching.delete(id);
    if (!this.store.sketches.outgrown(test.id, environmentKey(environment)).includes(id)) return;
    this.catching.add(id);
    this.queue.add(id);
  }
  private readonly catching = new Set<string>();

  /** The third that fails alike, of a test that never passes, tells more of the first two. */
  private join(id: string): void {
    if (this.joining.has(id)) return void this.joining.delete(id);
    for (const one of this.store.sketches.joined(id)) {
      this.joining.add(one);
      this.queue.add(one);
    }
  }
  private readonly joining = new Set<string>();
  /** How many passing attempts there are to tell what is ordinary; counted when the first comes. */
  private ordinary: number | undefined;

  async close(): Promise<void> {
    this.closed = true;
    await Promise.all(this.threads.map((thread) => thread.close()));
  }
}
