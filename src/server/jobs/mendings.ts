import { background } from '../../core/background.ts';
import type { Mending, SearchOrder } from '../../core/records.ts';
import { findingsOf } from '../../core/trials/findings.ts';
import { nextMend } from '../../core/trials/mend.ts';
import { proofOf } from '../../core/trials/proof.ts';
import type { Changes } from '../changes.ts';
import type { Store } from '../store/store.ts';
import { adviceOn } from './advice-on.ts';
import type { Contrasts } from './contrasts.ts';
import { proofsFor } from './proof-of.ts';
import type { SeriesJobs } from './series.ts';
import { proofTrials } from './turns.ts';

const unfinished: ReadonlySet<string> = new Set(['waiting', 'running']);

export interface MendingOrder extends SearchOrder {
  attemptId: string;
  drillId: string;
  engine: string;
  /** Of each proof. */
  trials: number;
}

/**
 * Provokes a failure, mends it and proves that, one series after the other. What comes next follows from what was played,
 * so that it goes on after its server was killed.
 */
export class MendingJobs {
  private readonly stopListening: () => void;
  /** Mendings that are being taken a step further. */
  private readonly busy = new Set<string>();

  constructor(
    private readonly store: Store,
    private readonly contrasts: Contrasts,
    private readonly series: SeriesJobs,
    private readonly changes: Changes,
  ) {
    this.stopListening = changes.listen((change) => {
      if (change.type === 'series') this.heard(change.id);
    });
    // Those that a killed server left go on where they were.
    setImmediate(() => store.mendings.unfinished().forEach((one) => this.further(one.id)));
  }

  start({ attemptId, drillId, engine, trials, ...search }: MendingOrder): Mending {
    const series = this.series.start({ drillId, engine, trials: search.budget.trials, stressors: [], search });
    return this.store.mendings.add({ attemptId, drillId, engine, trials, searchId: series.id });
  }

  /** Stops what is being played; what ran is kept. */
  stop(id: string): void {
    const mending = this.store.mendings.get(id);
    if (mending?.state !== 'running') return;
    this.store.mendings.end(id, 'stopped', null);
    for (const one of [mending.searchId, ...mending.proofs]) this.series.stop(one);
    this.changes.tell({ type: 'mending', id });
  }

  private heard(series: string): void {
    for (const one of this.store.mendings.unfinished())
      if (one.searchId === series || one.proofs.includes(series)) this.further(one.id);
  }

  private further(id: string): void {
    if (this.busy.has(id)) return;
    this.busy.add(id);
    const step = this.step(id)
      .catch((error: Error) => this.end(id, 'failed', null, error.message))
      .finally(() => this.busy.delete(id));
    background('taking a mending further', step, id);
  }

  private async step(id: string): Promise<void> {
    const { store } = this;
    const mending = store.mendings.get(id);
    if (mending?.state !== 'running') return;
    const under = store.drills.series(mending.proofs.at(-1) ?? mending.searchId);
    if (!under) return this.end(id, 'failed', null, 'what it had begun is gone');
    if (unfinished.has(under.state)) return;
    if (under.state !== 'done')
      return this.end(id, under.state === 'stopped' ? 'stopped' : 'failed', null, under.problem);
    const plan = store.drills.series(mending.searchId)?.search?.plan;
    const findings = plan ? findingsOf(plan, store.trials.tried(mending.searchId)).findings : [];
    const attempt = store.attempts.get(mending.attemptId);
    const drill = store.drills.get(mending.drillId);
    if (!attempt || !drill) return this.end(id, 'failed', null, 'its attempt is gone');
    const { remedies } = findings.length ? await adviceOn(store, this.contrasts, attempt) : { remedies: [] };
    // A remedy that cannot be put into the drill as it is now is none.
    const proofFor = proofsFor(store, drill);
    const playable = remedies.filter((one) => proofFor(one) !== undefined);
    const next = nextMend({ findings, remedies: playable, proofs: mending.proofs.flatMap((one) => this.verdict(one)) });
    if (store.mendings.get(id)?.state !== 'running') return;
    if ('ended' in next) return this.end(id, 'done', next.ended);
    const proof = proofFor(next.prove)!;
    const { drillId, engine, trials } = mending;
    store.mendings.addProof(
      id,
      this.series.start({ drillId, engine, trials, stressors: [...next.stressors], proof }).id,
    );
    this.changes.tell({ type: 'mending', id });
  }

  private verdict(id: string): { remedy: string; verdict: ReturnType<typeof proofOf>['verdict'] }[] {
    const series = this.store.drills.series(id);
    if (!series?.proof) return [];
    const { stressors, trials, proof } = series;
    return [{ remedy: proof.remedy, verdict: proofOf({ stressors, trials }, proofTrials(this.store, id)).verdict }];
  }

  private end(id: string, state: Mending['state'], ended: string | null, problem: string | null = null): void {
    this.store.mendings.end(id, state, ended, problem);
    this.changes.tell({ type: 'mending', id });
  }

  close(): void {
    this.stopListening();
  }
}
