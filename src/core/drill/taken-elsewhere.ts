import { locatorKey } from '../evidence/locator.ts';
import type { StepEvent } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { maskMark } from '../evidence/masking.ts';
import type { Condition, Statement } from './drill.ts';
import { drillLocator } from './elements.ts';
import { foundBy, isMany, type Look, type Looks } from './looks.ts';

/** What attempts that passed did upon an answer which this one did not get. */
export interface TakenElsewhere {
  steps: StepEvent[];
  /** The answer to a read or a script; absent where it was something that was found. */
  upon?: string;
}

interface Passed {
  evidence: Evidence;
  looks: Looks;
}

const takes: ReadonlySet<string> = new Set(['press', 'clear', 'type']);
const asks: ReadonlySet<string> = new Set(['find', 'read', 'script']);

/**
 * Steps that a test takes only sometimes: attempts that passed took them right after a look that gave them another answer.
 * @param look the look of the attempt that is drilled, which gave it what the steps were not taken upon
 */
export function takenElsewhere(
  step: StepEvent,
  look: Look,
  evidence: Evidence,
  passing: readonly Passed[],
): TakenElsewhere | undefined {
  if (step === evidence.failing) return undefined;
  return step.data.action === 'find'
    ? takenOnFound(step, look, passing)
    : takenUponAnswer(step, look, evidence, passing);
}

/** Something was looked for, not found, and the test went on: where it was found it was used. */
function takenOnFound(found: StepEvent, look: Look, passing: readonly Passed[]): TakenElsewhere | undefined {
  if (hasFound(found)) return undefined;
  for (const { evidence, looks } of passing) {
    const same = looks.like(look)?.steps.find((one) => isMany(one) === isMany(found) && hasFound(one));
    const steps = same ? evidence.steps.filter(({ data }) => data.foundBy === same.id && takes.has(data.action)) : [];
    if (steps.length) return { steps };
  }
  return undefined;
}

const hasFound = (found: StepEvent): boolean =>
  !found.data.error && (!isMany(found) || (Number(foundBy(found) ?? 0) || 0) > 0);

/** Something was asked that is one of two, and all who were answered otherwise did what this one never does. */
function takenUponAnswer(
  asked: StepEvent,
  look: Look,
  { steps: own }: Evidence,
  passing: readonly Passed[],
): TakenElsewhere | undefined {
  const answer = foundBy(asked);
  if (answer === undefined) return undefined;
  const others = passing.flatMap(({ evidence, looks }) => {
    const same = looks.like(look)?.steps.findLast(({ data }) => data.command === asked.data.command);
    const upon = same && foundBy(same);
    return same && upon !== undefined ? [{ upon, steps: actsAfter(same, evidence, own) }] : [];
  });
  const [first] = others;
  if (!first || first.upon === answer || others.some(({ upon }) => upon !== first.upon)) return undefined;
  const taken = others.find(({ steps }) => steps.length > 0);
  return taken && { steps: taken.steps, upon: taken.upon };
}

/** What was done after a step and before anything that the attempt itself does as well. */
function actsAfter(step: StepEvent, { steps }: Evidence, own: readonly StepEvent[]): StepEvent[] {
  const acts: StepEvent[] = [];
  for (const one of steps.slice(steps.indexOf(step) + 1)) {
    if (asks.has(one.data.action)) continue;
    if (!takes.has(one.data.action) || own.some((other) => isAlike(one, other))) break;
    acts.push(one);
  }
  return acts;
}

const isAlike = ({ data: a }: StepEvent, { data: b }: StepEvent): boolean =>
  a.action === b.action &&
  a.locator !== undefined &&
  b.locator !== undefined &&
  locatorKey(a.locator) === locatorKey(b.locator);

/** The same steps as statements that are done only when it is so. */
export function onlyWhen({ steps }: TakenElsewhere, that: Condition): Statement[] {
  return steps.flatMap(({ data }): Statement[] => {
    const own = data.locator && drillLocator(data.locator);
    const found = that.kind === 'there' && 'locator' in that.target ? that.target.locator : own;
    if (!found) return [];
    const index = that.kind === 'there' ? (data.locator?.index ?? 0) : 0;
    const target = { locator: index ? { ...found, match: index + 1 } : found };
    const when = that.kind === 'there' ? { ...that, target } : that;
    if (data.action !== 'type')
      return [{ do: 'when', that: when, then: { do: data.action === 'clear' ? 'clear' : 'press', target } }];
    const { input = '' } = data;
    return input.includes(maskMark) ? [] : [{ do: 'when', that: when, then: { do: 'type', text: input, target } }];
  });
}
