import type { Masker } from './masking.ts';

/** Of a long body its beginning and its end are kept, characters. */
export const keptOfBody = { head: 48 * 1024, tail: 16 * 1024 } as const;
/** Looked at beyond the cuts, so that a secret that stands across one is known. */
const slack = 8 * 1024;

/**
 * A body as it is kept: masked, and of one over 64 kB the head and the tail with a line that says how much is left out.
 * @param text the whole body
 */
export function bodyText(text: string, masker: Masker): string {
  const { head, tail } = keptOfBody;
  if (text.length <= head + tail) return masker.markup(text);
  const begin = masker.markup(text.slice(0, head + slack)).slice(0, head);
  const end = masker.markup(text.slice(-(tail + slack))).slice(-tail);
  return `${begin}\n… ${text.length - head - tail} characters left out …\n${end}`;
}
