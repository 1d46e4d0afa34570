import { applyPatch, structuredPatch } from 'diff';

/** What a drill says, without remarks, empty lines and where it came from. */
const said = (text: string): string =>
  text
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '' && !line.startsWith('#'))
    .join('\n') + '\n';

/**
 * A drill that people have changed, with a remedy that was made for it as it was.
 * @param made the drill as it was made @param remedied the same with the remedy @param own the drill as it is now
 * @returns nothing where it was changed in the very place the remedy goes to
 */
export function withRemedy(made: string, remedied: string, own: string): string | undefined {
  if (said(own) === said(made)) return remedied;
  const merged = applyPatch(said(own), structuredPatch('', '', said(made), said(remedied), '', '', { context: 2 }), {
    fuzzFactor: 1,
  });
  return merged === false ? undefined : merged;
}
