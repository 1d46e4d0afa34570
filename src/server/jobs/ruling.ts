import { background } from '../../core/background.ts';
import type { Changes } from '../changes.ts';
import { patiently } from '../store/patience.ts';
import type { Store } from '../store/store.ts';

const atOnce = 50;

/** Brings standing rules that were changed to bear on the attempts of the latest runs. Those to come are judged as they settle. */
export class RulingJobs {
  private closed = false;
  /** Resolves when what was changed last is brought to bear. */
  settled: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: Store,
    private readonly changes: Changes,
  ) {}

  /** The rules have changed. A later change takes over from an earlier one that is still under way. */
  changed(): void {
    this.settled = this.bring(this.store.rules.version());
    background('bringing the rules to bear', this.settled);
  }

  private async bring(version: number): Promise<void> {
    const ids = this.store.complaints.lately();
    const runs = new Set<string>();
    while (ids.length && !this.closed && version === this.store.rules.version()) {
      const some = ids.splice(0, atOnce);
      await patiently(() =>
        this.store.together(() => {
          const policies = this.store.rules.policies();
          for (const id of some)
            if (this.store.complaints.judgeAgain(id, policies)) {
              const run = this.store.attempts.get(id)?.runId;
              if (run) runs.add(run);
            }
        }),
      );
      await new Promise((done) => setImmediate(done));
    }
    for (const id of runs) this.changes.tell({ type: 'run', id });
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.settled.catch(() => undefined);
  }
}
