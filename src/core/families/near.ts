/**
 * Fingerprints that mean the same failure in slightly other words. Two are near when kind and place
 * are equal and their messages share most of their words (Jaccard's coefficient of the word sets).
 */

/** Share of words in common from which two messages are one. Below it, lists of different fields begin to meet. */
export const nearFrom = 0.72;
/** Messages of fewer words must be equal: two words shared by three say nothing. */
const fewestWords = 4;

interface Parts {
  /** Kind and place: must be equal. */
  anchor: string;
  words: ReadonlySet<string>;
}

function partsOf(print: string): Parts {
  const cut = print.indexOf('|', print.indexOf('|') + 1);
  return { anchor: print.slice(0, cut), words: new Set(print.slice(cut + 1).match(/[\p{L}<>]+/gu) ?? []) };
}

/** Jaccard's coefficient: shared over all. 1 for two empty sets. */
export function similarity(a: ReadonlySet<string>, b: ReadonlySet<string>): number {
  if (a.size === 0 && b.size === 0) return 1;
  let shared = 0;
  const [small, large] = a.size < b.size ? [a, b] : [b, a];
  for (const word of small) if (large.has(word)) shared++;
  return shared / (a.size + b.size - shared);
}

/**
 * Known fingerprints with the family of each. Asking for a new one finds its family: its own, a near
 * one, or none yet. The order in which failures arrive decides only which of two near fingerprints
 * names the family, never whether they are one.
 */
export class FamilyIndex {
  private readonly exact = new Map<string, string>();
  private readonly byAnchor = new Map<string, { words: ReadonlySet<string>; family: string }[]>();

  /** @param apart fingerprints a person has split off: they are found exactly, and attract nothing */
  add(print: string, family: string, apart = false): void {
    this.exact.set(print, family);
    if (apart) return;
    const { anchor, words } = partsOf(print);
    const known = this.byAnchor.get(anchor);
    if (known) known.push({ words, family });
    else this.byAnchor.set(anchor, [{ words, family }]);
  }

  /** The family of this very fingerprint. */
  exactly(print: string): string | undefined {
    return this.exact.get(print);
  }

  /** The family of a fingerprint and how it was found; undefined when it begins a family of its own. */
  find(print: string): { family: string; how: 'same' | 'near' } | undefined {
    const same = this.exact.get(print);
    if (same) return { family: same, how: 'same' };
    // A fingerprint made from a recorded step names the step; there is nothing near about it.
    if (print.split('|').length > 3) return undefined;
    const { anchor, words } = partsOf(print);
    if (words.size < fewestWords) return undefined;
    let best: { family: string; share: number } | undefined;
    for (const known of this.byAnchor.get(anchor) ?? []) {
      if (known.words.size < fewestWords) continue;
      const share = similarity(words, known.words);
      if (share >= nearFrom && (!best || share > best.share)) best = { family: known.family, share };
    }
    return best && { family: best.family, how: 'near' };
  }
}
