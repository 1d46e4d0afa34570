import { plural } from '../evidence/labels.ts';
import type { KeepingPlan, LetGoWhy } from './plan.ts';

/** Bytes as disks are sold: “12 MB”, “4.8 GB”. */
export const sizeText = (bytes: number): string =>
  bytes >= 1e9 ? `${(bytes / 1e9).toFixed(1)} GB` : `${(bytes / 1e6).toFixed(bytes < 1e7 ? 1 : 0)} MB`;

/** What a plan would do, in sentences: what goes, what has to stay, and whether the budget is met. */
export function planWords({ letGo, before, after, short, counts }: KeepingPlan): string[] {
  const stays = [
    ...(counts.pinned ? [`${counts.pinned} pinned`] : []),
    ...(counts.failingInTerm ? [`${counts.failingInTerm} that failed within their term`] : []),
  ].join(' and ');
  return [
    letGo.length === 0
      ? `Nothing would be let go of; the folder takes ${sizeText(before)}`
      : `Pictures of ${counts.pictures} and the rest of ${plural(counts.rest, 'attempt')} would be let go of: ${sizeText(before - after)} of ${sizeText(before)}`,
    ...(stays ? [`${stays} stay whole`] : []),
    ...(short > 0
      ? [
          `The budget would be missed by ${sizeText(short)}: all that is left has to be kept. Shorten a term, or raise it`,
        ]
      : []),
  ];
}

/** Why something was let go of, as the attempt says it. */
export const letGoWords: Record<LetGoWhy, string> = {
  term: 'its term was over',
  'one in': 'of passing attempts like it only some keep their pictures',
  budget: 'the data folder was over its budget',
};
