import { standingOf } from '../../core/evidence/attempt.ts';
import type { Attempt, Run, RunFamily } from '../../core/records.ts';
import type { Store } from '../store/store.ts';

export function familiesOfRun(store: Store, run: Run): RunFamily[] {
  const attempts = store.attempts.ofRun(run.id);
  const cells = groupBy(attempts, cellOf);
  const byFamily = groupBy(
    attempts.filter((attempt) => attempt.familyId !== null),
    (attempt) => attempt.familyId!,
  );
  return [...byFamily]
    .map(([id, members]): RunFamily => {
      const leaders = members.flatMap((member) => (member.leading ? [member.leading] : []));
      const family = store.families.get(id)!;
      return {
        id,
        sentence: family.sentence,
        tests: new Set(members.map((member) => member.test.id)).size,
        environments: new Set(members.map((member) => member.environment.key)).size,
        attempts: members
          .sort((a, b) => a.startedAt - b.startedAt)
          .map((member) => ({
            id: member.id,
            outcome: member.outcome,
            flaky: standingOf(cells.get(cellOf(member)) ?? []) === 'flaky',
          })),
        leading: leaders.sort((a, b) => b.probability - a.probability)[0] ?? null,
        isNew: family.firstAt >= run.startedAt,
        runs: store.families.runsOf(id),
        verdict: family.verdict,
      };
    })
    .sort((a, b) => b.attempts.length - a.attempts.length || a.sentence.localeCompare(b.sentence));
}

const cellOf = (attempt: Attempt): string => `${attempt.test.id}\n${attempt.environment.key}`;

function groupBy<T>(items: readonly T[], key: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const group = groups.get(key(item));
    if (group) group.push(item);
    else groups.set(key(item), [item]);
  }
  return groups;
}
