/** What tells at a glance which of many words can stand in a text. */
export interface Probes {
  /** Numbers of the words that stand in the text, in no order. */
  in(text: string): Iterable<number>;
}

/** So few words are looked for one by one faster than all at once. */
export const fewWords = 96;
const tableSize = 1 << 18;

/**
 * Finds which of some words stand in a text, in one pass over it: every place is looked up by its first three
 * characters, as R. Karp and M. Rabin do by a hash ("Efficient randomized pattern-matching algorithms", 1987).
 * Words under three characters count as standing everywhere.
 */
export function probesOf(words: readonly string[]): Probes {
  if (words.length <= fewWords)
    return {
      *in(text) {
        for (let i = 0; i < words.length; i++) if (text.includes(words[i]!)) yield i;
      },
    };
  const buckets = new Map<number, string[]>();
  const table = new Uint8Array(tableSize);
  const always: number[] = [];
  /** Many secrets have their longest part in common: it is looked for once. */
  const numbers = new Map<string, number[]>();
  words.forEach((word, i) => {
    if (word.length < 3) return void always.push(i);
    const same = numbers.get(word);
    if (same) return void same.push(i);
    numbers.set(word, [i]);
    const at = hash(word.charCodeAt(0), word.charCodeAt(1), word.charCodeAt(2));
    table[at] = 1;
    buckets.set(at, [...(buckets.get(at) ?? []), word]);
  });
  return {
    in(text) {
      const found = new Set(always);
      let [a, b] = [text.charCodeAt(0), text.charCodeAt(1)];
      for (let i = 2; i < text.length; i++) {
        const c = text.charCodeAt(i);
        if (table[hash(a, b, c)])
          for (const word of buckets.get(hash(a, b, c))!)
            if (text.startsWith(word, i - 2)) for (const number of numbers.get(word)!) found.add(number);
        a = b;
        b = c;
      }
      return found;
    },
  };
}

const hash = (a: number, b: number, c: number): number => {
  const mixed = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b) ^ Math.imul(c, 0xc2b2ae35);
  return (mixed ^ (mixed >>> 15)) & (tableSize - 1);
};
