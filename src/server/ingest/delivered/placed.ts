import type { Zones } from '../../../core/placing/told-spans.ts';
import type { EvidenceFile } from '../../../core/records.ts';
import type { LooseEntry } from './loose-entry.ts';
import type { PlacingTools } from './tools.ts';

/** What came of placing files. */
export interface Placed {
  attached: number;
  waiting: { name: string; why: string }[];
  touched: Set<string>;
  zones: Zones;
}

/** A file as it is kept. */
export function rowOf(
  { id: intakeId, runId }: PlacingTools,
  { file, id, blob }: LooseEntry,
  rest: Omit<EvidenceFile, 'id' | 'intakeId' | 'runId' | 'name' | 'kind' | 'blob' | 'size' | 'facts'>,
): EvidenceFile {
  return { id, intakeId, runId, name: file.name, kind: file.kind, blob, size: file.size, facts: file.facts, ...rest };
}
