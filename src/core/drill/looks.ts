import type { StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { askedAbout, countsNow } from '../evidence/waits.ts';

/** A stretch of commands in which a test asked the page one thing: once, or again and again until it was so. */
export interface Look {
  /** What was asked about. */
  key: string;
  /** The how-many-th look at it in its attempt, from 0. */
  nth: number;
  steps: StepEvent[];
  /** Id of the wait it was, when it was asked more than once. */
  wait?: string;
  /** The test went on after it. */
  met: boolean;
}

/** All looks of an attempt in time order, up to where it failed. */
function looksOf(evidence: Evidence, until = evidence.failing?.at ?? Infinity): Look[] {
  const looks: Look[] = [];
  const counts = new Map<string, number>();
  let last: StepEvent | undefined;
  for (const step of evidence.steps) {
    if (step.at > until) break;
    const key = askedAbout(step);
    if (key !== undefined) {
      const wait = evidence.insideWait.get(step.id);
      const open = looks.at(-1);
      const goesOn =
        open && last === open.steps.at(-1) && open.key === key && open.wait === wait && !countsNow(open.steps, step);
      if (goesOn) open.steps.push(step);
      else {
        const nth = counts.get(key) ?? 0;
        counts.set(key, nth + 1);
        looks.push({ key, nth, steps: [step], met: true, ...(wait === undefined ? {} : { wait }) });
      }
    }
    last = step;
  }
  const { failing } = evidence;
  for (const look of looks) if (failing && look.steps.includes(failing)) look.met = false;
  return looks;
}

/** The looks of one attempt, to be asked by step and by what was asked of the page. */
export class Looks {
  private readonly byStep = new Map<string, Look>();
  private readonly byTurn = new Map<string, Look>();
  private readonly waits = new Map<string, Look[]>();

  constructor(evidence: Evidence, until?: number) {
    for (const look of looksOf(evidence, until)) {
      for (const step of look.steps) this.byStep.set(step.id, look);
      this.byTurn.set(`${look.nth} ${look.key}`, look);
      if (look.wait === undefined) continue;
      const known = this.waits.get(look.key);
      if (known) known.push(look);
      else this.waits.set(look.key, [look]);
    }
  }

  /** The look that a step belongs to. */
  of(step: StepEvent): Look | undefined {
    return this.byStep.get(step.id);
  }

  /** The same look in this attempt. */
  like({ key, nth }: Look): Look | undefined {
    return this.byTurn.get(`${nth} ${key}`);
  }

  /** Looks at the same thing that were waits. */
  waitsFor({ key }: Look): readonly Look[] {
    return this.waits.get(key) ?? [];
  }
}

/** Whether a find asks for all there are. */
export const isMany = (step: StepEvent): boolean => step.data.command.startsWith('find elements');

/** What one try found: how many, what was read, what a script answered; nothing where it ended in an error. */
export function foundBy(step: StepEvent): string | undefined {
  const { error, action, result } = step.data;
  if (error) return undefined;
  if (action === 'find') return isMany(step) ? String(result ?? 0) : 'found';
  return typeof result === 'string' ? result : JSON.stringify(result ?? null);
}
