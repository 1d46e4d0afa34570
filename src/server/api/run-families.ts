import type { Verdict } from '../../core/families/verdict.ts';
import type { Run, RunFamily } from '../../core/records.ts';
import type { Store } from '../store/store.ts';

/** What is known of families beyond one run; asked once for each in a list of many runs. */
export type KnownFamilies = Map<string, { sentence: string; verdict: Verdict; runs: number } | undefined>;

/** The families of a run: its own counts, and what is known of them beyond this run. */
export function familiesOfRun(store: Store, run: Run, known: KnownFamilies = new Map()): RunFamily[] {
  const before = store.runs.startBefore(run.startedAt);
  return store.runs.summary(run.id).families.flatMap(({ ...summary }): RunFamily[] => {
    if (!known.has(summary.id)) {
      const one = store.families.get(summary.id);
      known.set(
        summary.id,
        one && { sentence: one.sentence, verdict: one.verdict, runs: store.families.runsOf(summary.id) },
      );
    }
    const family = known.get(summary.id);
    if (!family) return [];
    const lastSeen = store.families.lastSeen(summary.id, run.startedAt, run.id);
    return [
      {
        ...summary,
        sentence: family.sentence,
        since: lastSeen === null ? 'new' : before !== undefined && lastSeen < before ? 'returned' : 'known',
        lastSeen,
        runs: family.runs,
        verdict: family.verdict,
      },
    ];
  });
}
