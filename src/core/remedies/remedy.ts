import type { CauseCode } from '../causes/cause.ts';
import type { MadeDrill } from '../drill/from-evidence.ts';
import type { Drill } from '../drill/drill.ts';
import { printDrill, printStatement } from '../drill/print.ts';
import { shortHash } from '../evidence/hash.ts';
import type { Advice, AdviceKind } from './advice.ts';
import { changed } from './change.ts';

/** Advice that can be played: a drill in which it has been followed. */
export interface Remedy {
  /** The same for the same change of the same drill. */
  id: string;
  cause: CauseCode;
  kind: AdviceKind;
  words: string;
  because: string;
  /** The changed drill's text. */
  drill: string;
}

/**
 * The remedies that advice on a failing attempt comes to, in the order of the advice; two that change the drill alike are one.
 * What cannot be mended in a test, or not in the language of drills, brings none.
 * @param made the drill of that attempt
 */
export function remediesOf(advice: readonly Advice[], made: MadeDrill): Remedy[] {
  const before = made.drill.lines.map(printStatement).join('\n');
  const out: Remedy[] = [];
  for (const { cause, kind, text, because, change } of advice) {
    const statements = change && changed(made, change);
    if (!statements) continue;
    const body = statements.map(printStatement).join('\n');
    const id = `r-${shortHash(body)}`;
    if (body === before || out.some((one) => one.id === id)) continue;
    const drill: Drill = {
      title: made.drill.title,
      lines: statements.map((statement, i) => ({ ...statement, line: i + 1 })),
    };
    const words = change.words ?? text;
    out.push({ id, cause, kind, words, because, drill: printDrill(drill, [words]) });
  }
  // A wait beside the pause is surer than one instead of it, which comes after all others of its cause.
  return out.sort((a, b) => (a.cause === b.cause ? Number(a.kind === 'pause') - Number(b.kind === 'pause') : 0));
}
