import type { Drill, Line, Statement, Target } from './drill.ts';
import { printStatement } from './print.ts';

/** How a trial of a drill ended that failed otherwise than what the drill was made of. */
export interface Ended {
  /** Number of the line it failed at. */
  line: number;
  /** What a check read there. */
  actual?: string;
  /** The line's element was not there. */
  absent: boolean;
}

/** What a drill waits for from now on: a line that goes before another. */
export interface Fit {
  before: number;
  text: string;
  words: string;
}

const limitMs = 5000;
const everyMs = 50;

/**
 * What a drill has to wait for because it came sooner than its test ever did. A drill's commands follow each other more
 * quickly than those of a test through its client; where every recorded attempt found what it looked for at its first
 * look, nothing shows that the test waits. A trial that fails there shows it: its element is not there yet, or still
 * reads what no attempt read.
 * @returns nothing where waiting would not change how it ended
 */
export function fitFor(drill: Drill, { line, actual, absent }: Ended): Fit | undefined {
  const at = drill.lines.findIndex((one) => one.line === line);
  const failed = drill.lines[at];
  if (!failed) return undefined;
  const wait = absent ? untilThere(failed) : untilOther(failed, actual);
  if (!wait) return undefined;
  const text = printStatement(wait);
  const before = drill.lines[at - 1];
  // It waited for that already, and in vain.
  if (before && printStatement(before) === text) return undefined;
  const words = `the drill came to “${printStatement(failed)}” sooner than the test ever did: it waits before it now, “${text}”`;
  return { before: failed.line, text, words };
}

function untilThere(line: Line): Statement | undefined {
  const target = targetOf(line);
  // What a held name stands for has been found already.
  if (!target || 'name' in target) return undefined;
  return { do: 'wait', until: { kind: 'there', target }, limitMs, everyMs };
}

function untilOther(line: Line, actual: string | undefined): Statement | undefined {
  if (line.do !== 'check' || line.that.kind !== 'value' || actual === undefined) return undefined;
  const { subject } = line.that;
  return { do: 'wait', until: { kind: 'value', subject, comparison: 'is not', value: actual }, limitMs, everyMs };
}

/** The element that a line is about. */
function targetOf(line: Line): Target | undefined {
  switch (line.do) {
    case 'find':
      return { locator: line.locator };
    case 'press':
    case 'type':
    case 'type secret':
    case 'clear':
    case 'choose':
    case 'scroll to':
    case 'remember place':
      return line.target;
    case 'click':
    case 'hover':
      return 'target' in line.at ? line.at.target : undefined;
    case 'check':
      return line.that.kind === 'value' ? line.that.subject.of : undefined;
    case 'read':
    case 'remember':
      return line.subject.of;
    default:
      return undefined;
  }
}

/** The text of a drill with a fit in it, the rest as it was written. */
export function fitted(text: string, { before, text: added }: Fit): string {
  const lines = text.split('\n');
  const indent = /^\s*/.exec(lines[before - 1] ?? '')![0];
  lines.splice(before - 1, 0, `${indent}${added}`);
  return lines.join('\n');
}
