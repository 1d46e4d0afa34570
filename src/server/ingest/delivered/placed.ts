import type { EvidenceFile } from '../../../core/records.ts';
import type { LooseEntry } from './loose-entry.ts';
import { clockOf } from './materialise.ts';
import type { PlacingTools } from './tools.ts';

/** What came of placing files. */
export interface Placed {
  attached: number;
  waiting: { name: string; why: string }[];
  touched: Set<string>;
}

/** Keeps a file; one that was kept already takes its evidence back first. @returns false when the run has it already */
export function keep({ store, again, runId }: PlacingTools, file: EvidenceFile, touched: Set<string>): boolean {
  if (!again) return store.files.add(file);
  const before = store.files.get(file.id);
  const from =
    before?.state === 'spread'
      ? store.attempts.ofRun(runId).map(({ id }) => id)
      : before?.attemptId
        ? [before.attemptId]
        : [];
  for (const attempt of from) {
    store.events.removeClock(attempt, clockOf(file.id));
    if (before?.attemptId) touched.add(attempt);
  }
  store.files.replace(before ? { ...file, intakeId: before.intakeId } : file);
  return true;
}

/** A file as it is kept. */
export function rowOf(
  { id: intakeId, runId }: PlacingTools,
  { file, id, blob }: LooseEntry,
  rest: Omit<EvidenceFile, 'id' | 'intakeId' | 'runId' | 'name' | 'kind' | 'blob' | 'size' | 'facts'>,
): EvidenceFile {
  return { id, intakeId, runId, name: file.name, kind: file.kind, blob, size: file.size, facts: file.facts, ...rest };
}
