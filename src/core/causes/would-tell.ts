import { clueKinds } from '../clues/register.ts';
import type { Scene } from '../clues/scene.ts';
import type { CauseCode } from './cause.ts';
import { causes } from './register.ts';
import type { Suspect } from './score.ts';

/** With so many passing attempts more of them add little. */
const enoughPassing = 3;
/** Less likely than this a cause does not remain. */
const leastLikely = 0.03;

/** What "can't tell" is about, and what would end it. */
export interface WouldTell {
  /** The causes that remain: two, or one that does not stand out. */
  between: CauseCode[];
  /** Evidence that is not there, in words: “one passing attempt of this test”. */
  evidence: string[];
  /** For each that remains, what would show it and was not seen. */
  signs: { cause: CauseCode; sign: string }[];
}

/** What evidence an attempt lacks that others have, in words that follow “What would tell:”. */
export function lackingEvidence(scene: Scene): string[] {
  const { steps, network, console, passing, kin = [] } = scene;
  const out: string[] = [];
  if (steps.length === 0) out.push('its steps and its page: record the test through Iskel');
  if (passing.length === 0) out.push('one passing attempt of this test');
  else if (passing.length < enoughPassing)
    out.push(`${enoughPassing - passing.length} more passing attempts of this test`);
  if (steps.length > 0 && network.length === 0)
    out.push('its requests and its console, which this browser did not tell');
  else if (steps.length === 0 && console.length === 0) out.push('its console');
  if (kin.length === 0) out.push('a second attempt that fails so');
  return out;
}

/** @returns undefined where nothing speaks for any cause */
export function wouldTell(suspects: readonly Suspect[], evidence: readonly string[]): WouldTell | undefined {
  const remain = suspects.filter((one) => one.for.length > 0 && one.probability >= leastLikely).slice(0, 2);
  if (remain.length === 0) return undefined;
  return {
    between: remain.map(({ cause }) => cause),
    evidence: [...evidence],
    signs: remain.flatMap((one) => {
      const sign = missingSign(one);
      return sign ? [{ cause: one.cause, sign }] : [];
    }),
  };
}

/** The strongest of what speaks for a cause that was not seen. */
function missingSign({ cause, for: seen }: Suspect): string | undefined {
  const weights = causes.find(({ code }) => code === cause)!.for;
  const [code] =
    Object.entries(weights)
      // What only trials could show is no sign that was missed here.
      .filter(([one]) => !one.startsWith('provoked-by-') && !seen.some((clue) => clue.code === one))
      .sort((a, b) => b[1] - a[1])[0] ?? [];
  return clueKinds.find((kind) => kind.code === code)?.about;
}
