import { isFailure } from '../../core/evidence/attempt.ts';
import { wilson } from '../../core/stats/wilson.ts';
import { findingsOf } from '../../core/trials/findings.ts';
import type { Series } from '../../core/records.ts';
import { allWords, stressKey } from '../../core/trials/stressor.ts';
import { Tallies } from '../../core/trials/tally.ts';
import { isSought, soughtFamily } from '../jobs/verdict.ts';
import type { Store } from '../store/store.ts';
import type { StoredTrial } from '../store/trials.ts';

/** A series as it stands: its trials, the rate of the failure it is after, and what it found. */
export function viewOfSeries(store: Store, id: string) {
  const stored = store.drills.series(id);
  if (!stored) return undefined;
  const { search, proof: _proof, ...series } = stored;
  const drill = store.drills.get(stored.drillId);
  const family = soughtFamily(store, stored.drillId);
  const played = new Map(store.trials.of(id).map((trial) => [trial.number, trial]));
  const trials = store.attempts.ofSeries(id).map((trial) => {
    const failed = isFailure(trial.outcome) && trial.state === 'ready';
    const { stressors, phase = null, place = null } = played.get(trial.number) ?? {};
    return {
      id: trial.id,
      number: trial.number,
      outcome: trial.outcome,
      state: trial.state,
      durationMs: trial.durationMs,
      familyId: trial.familyId,
      sentence: trial.failure?.sentence ?? null,
      same: failed && isSought(family, trial),
      other: failed && !isSought(family, trial),
      phase,
      place,
      ...(search && stressors ? { under: allWords(stressors) } : {}),
    };
  });
  // Only trials that came to an end, and whose failure has been read, count.
  const done = trials.filter(
    (trial) => trial.state === 'ready' && (trial.outcome === 'passed' || isFailure(trial.outcome)),
  );
  const failed = done.filter((trial) => trial.same).length;
  return {
    ...series,
    title: drill?.title ?? '',
    familyId: family,
    done: done.length,
    failed,
    otherFailures: done.filter((trial) => trial.other).length,
    rate: wilson(failed, done.length),
    under: allWords(series.stressors),
    ...found([...played.values()], search),
    trials,
  };
}

/** What a search found and tried; nothing found in a series that does not search. */
function found(played: readonly StoredTrial[], search: Series['search']): object {
  if (!search) return { search: null, findings: [], ruledOut: [] };
  const { budget, plan, ended } = search;
  const told = { budget, ended: ended ?? null, planned: plan?.arms.length ?? 0, arms: armsOf(played) };
  const tried = played.filter(({ phase }) => phase !== 'fitting');
  return { search: told, ...(plan ? findingsOf(plan, tried) : { findings: [], ruledOut: [] }) };
}

/** Everything that was tried, in the order in which it was first tried, with its counts. */
function armsOf(played: readonly StoredTrial[]): object[] {
  const tallies = new Tallies(played.filter(({ phase }) => phase !== 'fitting'));
  const arms = new Map<string, StoredTrial[]>();
  for (const trial of played) {
    const key = trial.phase === 'fitting' ? `fitting ${trial.why}` : stressKey(trial.stressors);
    arms.set(key, [...(arms.get(key) ?? []), trial]);
  }
  return [...arms.values()].map((trials) => {
    const { stressors, phase, why } = trials[0]!;
    return {
      stressors,
      words: phase === 'fitting' ? 'whether it does what its test does' : allWords(stressors),
      phase,
      why,
      ...(phase === 'fitting' ? new Tallies(trials) : tallies).under(stressors),
      trials: trials.map(({ number, attemptId, verdict }) => ({ number, attemptId, verdict })),
    };
  });
}
