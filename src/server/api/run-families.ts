import type { Run, RunFamily } from '../../core/records.ts';
import type { Store } from '../store/store.ts';

/** The families of a run: its own counts, and what is known of them beyond this run. */
export function familiesOfRun(store: Store, run: Run): RunFamily[] {
  const before = store.runs.startBefore(run.startedAt);
  return store.runs.summary(run.id).families.flatMap(({ ...summary }): RunFamily[] => {
    const family = store.families.get(summary.id);
    if (!family) return [];
    const lastSeen = store.families.lastSeen(family.id, run.startedAt, run.id);
    return [
      {
        ...summary,
        sentence: family.sentence,
        since: lastSeen === null ? 'new' : before !== undefined && lastSeen < before ? 'returned' : 'known',
        lastSeen,
        runs: store.families.runsOf(family.id),
        verdict: family.verdict,
      },
    ];
  });
}
