import type { Remedy } from '../remedies/remedy.ts';
import type { Finding } from './findings.ts';
import type { ProofVerdict } from './proof.ts';
import type { Stressor } from './stressor.ts';
import { agrees } from './tells.ts';

/** Remedies that are tried, one after the other, before it is given up. */
export const mostRemedies = 3;

export interface MendSoFar {
  /** Best first. */
  findings: readonly Finding[];
  remedies: readonly Remedy[];
  /** The proofs that were played, the first one first. */
  proofs: readonly { remedy: string; verdict: ProofVerdict }[];
}

export type NextMend = { prove: Remedy; stressors: readonly Stressor[] } | { ended: string; mended: boolean };

/** What comes after the search, and after each proof: the next remedy, or the end. It keeps no state. */
export function nextMend({ findings, remedies, proofs }: MendSoFar): NextMend {
  const [finding] = findings;
  if (!finding)
    return { ended: 'Nothing that was tried brings the failure on demand, so no remedy can be proven', mended: false };
  const last = proofs.at(-1);
  if (last?.verdict === 'mends') return { ended: 'Provoked, mended and proven', mended: true };
  if (last?.verdict === 'not provoked')
    return { ended: 'The failure could not be provoked again, so no remedy can be proven', mended: false };
  const { stressors } = finding;
  const untried = ranked(remedies, stressors).filter(({ id }) => proofs.every(({ remedy }) => remedy !== id));
  const [next] = untried;
  if (next && proofs.length < mostRemedies) return { prove: next, stressors };
  if (proofs.length === 0)
    return {
      ended: 'It is provoked; none of what is advised can be played as a drill, so the remedy lies elsewhere',
      mended: false,
    };
  const left = untried.length ? ` ${untried.length} more can be proven by hand.` : '';
  return {
    ended: `It is provoked; ${proofs.length === 1 ? 'the remedy that was tried does not mend it' : `none of the ${proofs.length} remedies that were tried mends it`}.${left}`,
    mended: false,
  };
}

/** Remedies for causes that the provocation speaks for come first; otherwise the order of the advice stands. */
export const ranked = (remedies: readonly Remedy[], stressors: readonly Stressor[]): Remedy[] =>
  [...remedies].sort((a, b) => Number(agrees(b.cause, stressors)) - Number(agrees(a.cause, stressors)));
