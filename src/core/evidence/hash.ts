/**
 * A 53-bit hash of a text, as 11 characters of base 36: a stable short id, not a safeguard.
 * Two 32-bit multiplicative lanes mixed at the end (the public-domain "cyrb53" construction).
 * @example shortHash('a') === shortHash('a') // true, on every machine
 */
export const shortHash = (text: string): string => numberHash(text).toString(36).padStart(11, '0');

/** The same hash as a number, for maps of very many texts that need not keep the texts. */
export function numberHash(text: string): number {
  let h1 = 0xdeadbeef;
  let h2 = 0x41c6ce57;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    h1 = Math.imul(h1 ^ code, 2654435761);
    h2 = Math.imul(h2 ^ code, 1597334677);
  }
  h1 = Math.imul(h1 ^ (h1 >>> 16), 2246822507) ^ Math.imul(h2 ^ (h2 >>> 13), 3266489909);
  h2 = Math.imul(h2 ^ (h2 >>> 16), 2246822507) ^ Math.imul(h1 ^ (h1 >>> 13), 3266489909);
  return 4294967296 * (2097151 & h2) + (h1 >>> 0);
}
