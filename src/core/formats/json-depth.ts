/** Deeper than any honest JSON lies in itself; what lies deeper is made to overflow whoever reads it. */
export const deepest = 200;

/**
 * Whether brackets lie in each other deeper than `deepest`. One pass over the bytes, whatever they are; texts between
 * quotes do not count.
 * @example isTooDeep(new TextEncoder().encode('[[1],{"a":"[[["}]')) // false
 */
export function isTooDeep(bytes: Uint8Array): boolean {
  let depth = 0;
  let inText = false;
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i];
    if (inText) {
      if (byte === 0x5c) i++;
      else if (byte === 0x22) inText = false;
    } else if (byte === 0x22) inText = true;
    else if (byte === 0x5b || byte === 0x7b) {
      if (++depth > deepest) return true;
    } else if (byte === 0x5d || byte === 0x7d) depth--;
  }
  return false;
}
