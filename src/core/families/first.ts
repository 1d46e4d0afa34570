import type { RunFamily } from '../records.ts';
import { plural } from '../evidence/labels.ts';
import { awaitsVerdict } from './verdict.ts';

/** Families of a run, what needs somebody first; the rest folded and counted. */
export interface FoldedFamilies {
  shown: RunFamily[];
  folded: RunFamily[];
  /** What is folded, in words. */
  words: string;
}

/** So few are never folded: a fold that hides one or two is in the way. */
const worthFolding = 3;

/**
 * @param most how many are shown at the most before the rest is folded @param now epoch ms
 */
export function foldFamilies(families: readonly RunFamily[], most: number, now: number): FoldedFamilies {
  const rank = ({ verdict, since }: RunFamily): number =>
    verdict.cameBack ? 0 : !awaitsVerdict(verdict, now) ? 4 : since === 'new' ? 1 : since === 'returned' ? 2 : 3;
  const ordered = [...families].sort((a, b) => rank(a) - rank(b) || b.count - a.count);
  const cut = ordered.length - most < worthFolding ? ordered.length : most;
  const folded = ordered.slice(cut);
  const awaiting = folded.filter(({ verdict }) => awaitsVerdict(verdict, now)).length;
  const failures = folded.reduce((sum, { count }) => sum + count, 0);
  return {
    shown: ordered.slice(0, cut),
    folded,
    words: folded.length
      ? `${plural(folded.length, 'more family', 'more families')} with ${plural(failures, 'failure')}: ${awaiting ? `${awaiting} await${awaiting === 1 ? 's' : ''} a verdict` : 'all have their verdict'}`
      : '',
  };
}
