import type { OwnPattern } from './masking.ts';
import { writingsOf } from './secret-forms.ts';

/**
 * What is kept of a declared secret once its session is over: enough to find it in a text that comes later, not enough
 * to read it. Of every writing of it there is its length, a number from its first letters by which a text is looked
 * through (a hash as R. Karp and M. Rabin use, 1987), and a keyed hash of all of it that proves what was found.
 * Whoever has the key and the prints can try words out; a secret of few possibilities is found so.
 */
export interface SecretPrint {
  length: number;
  /** Of its first letters. */
  start: number;
  /** Keyed hash of the whole writing. */
  proof: string;
}

/** A keyed hash that cannot be turned back, as text. */
export type OneWay = (text: string) => string;

/** A text is looked through by so many letters; shorter writings by all they have. */
const startLength = 8;
const tableSize = 1 << 16;

function startOf(text: string, at: number, length: number): number {
  let h = length;
  for (let i = 0; i < length; i++) h = (Math.imul(h, 0x01000193) ^ text.charCodeAt(at + i)) | 0;
  return h ^ (h >>> 15);
}

/** The prints of a secret, one for each way in which it is written. */
export function printsOf(secret: string, oneWay: OneWay): SecretPrint[] {
  return writingsOf(secret).map((text) => ({
    length: text.length,
    start: startOf(text, 0, Math.min(startLength, text.length)),
    proof: oneWay(text),
  }));
}

/** Finds in texts what prints were made of. */
export function findingPrints(prints: readonly SecretPrint[], oneWay: OneWay): OwnPattern {
  const lengths = [...new Set(prints.map(({ length }) => Math.min(startLength, length)))].sort((a, b) => b - a);
  const table = new Uint8Array(tableSize);
  const byStart = new Map<number, SecretPrint[]>();
  for (const print of prints) {
    table[print.start & (tableSize - 1)] = 1;
    byStart.set(print.start, [...(byStart.get(print.start) ?? []), print]);
  }
  // The longest first: one may begin as another does.
  for (const list of byStart.values()) list.sort((a, b) => b.length - a.length);
  const endAt = (text: string, at: number): number => {
    for (const length of lengths) {
      if (at + length > text.length) continue;
      const start = startOf(text, at, length);
      if (!table[start & (tableSize - 1)]) continue;
      for (const print of byStart.get(start) ?? [])
        if (at + print.length <= text.length && oneWay(text.slice(at, at + print.length)) === print.proof)
          return at + print.length;
    }
    return -1;
  };
  return {
    replace(text, by) {
      let out = '';
      let from = 0;
      for (let at = 0; at < text.length; at++) {
        const end = endAt(text, at);
        if (end < 0) continue;
        out += text.slice(from, at) + by;
        from = end;
        at = end - 1;
      }
      return from === 0 ? text : out + text.slice(from);
    },
  };
}
