import type { SketchStep } from '../contrast/sketch.ts';
import { duration, said } from '../evidence/labels.ts';
import type { Statement } from '../drill/drill.ts';
import type { Adviser, Advice } from './advice.ts';
import { isHeard } from './asked.ts';
import { inPassing, sameStep, shownStep, type Case } from './case.ts';
import { waitUntil, type Change } from './change.ts';
import { conditionsAfter, conditionsBefore, type FoundCondition } from './conditions.ts';
import { targetOf } from './targets.ts';
import { commandOf, momentAt, type Moment } from './told.ts';

/** Most conditions that are told: the best, and what else would do. */
const mostTold = 2;

/** Wait for a condition before the step, instead of doing it at once. */
export const waitFor: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const moment = momentAt(subject, step);
  return best(about, moment).map((found) =>
    told(about, found, moment, `Before ${said(step.label)}, wait until`, (statements) => ({
      do: 'put before',
      statements,
    })),
  );
};

/**
 * Wait before looking for an element that is held across what replaces it: the condition has to stand when
 * it is found, not only when it is used. And find it right before the use.
 */
export const findAgain: Adviser = (about) => {
  const { step, subject } = about;
  if (!step) return [];
  const moment = momentAt(subject, step, true);
  const found = best(about, moment, true);
  const line = step.locator === undefined ? undefined : subject.evidence.lifelines.get(step.locator);
  const used = momentAt(subject, step);
  const replaced = line?.segments.find(
    (one) =>
      (one.kind === 'replaced' || one.kind === 'removed') && one.from >= foundAt(moment) && one.from <= step.until,
  );
  const words = `Find ${calledIn(step)} anew right before ${doing[step.action] ?? 'using'} it`;
  const again: Omit<Advice, 'cause'> = {
    kind: 'find-again',
    text: `${words}${found.length ? ', and only once what follows holds' : ''}`,
    because: replaced
      ? `It was found ${duration(used.at - foundAt(moment))} before it was used, and replaced in between, ${duration(Math.max(0, used.at - replaced.from))} before the use`
      : `It was found ${duration(used.at - foundAt(moment))} before it was used`,
    passing: null,
    failing: null,
    shown: [shownStep(used), ...(replaced ? [{ attempt: subject.id, event: replaced.event, at: replaced.from }] : [])],
    change: { at: step.events, change: { do: 'find anew', statements: [] }, words },
  };
  return [
    again,
    ...found.map((one) =>
      told(about, one, moment, `Before looking for it, wait until`, (statements) => ({ do: 'find anew', statements })),
    ),
  ];
};

const doing: Partial<Record<SketchStep['action'], string>> = {
  press: 'pressing',
  type: 'typing into',
  read: 'reading',
  clear: 'clearing',
};

/** A step's label ends with what it was done to. */
const calledIn = ({ label }: SketchStep): string => /“[^“”]+”$/.exec(label)?.[0] ?? 'the element';

/** When the element that a step used was found. */
function foundAt({ told, step }: Moment): number {
  const use = commandOf(told, step);
  const find = told.evidence.steps.find(({ id }) => id === use?.data.foundBy);
  return find ? (find.until ?? find.at) : step.at;
}

function best(about: Case, moment: Moment, early = false): FoundCondition[] {
  const at = early ? { ...moment, at: foundAt(moment) } : moment;
  const same = (side: 'passing' | 'failing'): Moment[] =>
    sameStep(about, moment.step, side, early).map((one) => (early ? { ...one, at: foundAt(one) } : one));
  const passing = same('passing');
  if (passing.length) return spread(conditionsBefore(at, same('failing'), passing));
  const late = Math.max(...about.clues.map((clue) => clue.until ?? clue.at), at.at);
  // What came with it is rendered a moment later.
  return spread(conditionsAfter(at, late + 100));
}

/** The best, and the best of those that look at something else. */
function spread(found: readonly FoundCondition[]): FoundCondition[] {
  const out: FoundCondition[] = [];
  for (const one of found) {
    if (out.length >= mostTold) break;
    if (
      out.some(
        ({ condition }) =>
          condition.locator === one.condition.locator &&
          (condition.locator !== undefined || condition.kind === one.condition.kind),
      )
    )
      continue;
    out.push(one);
  }
  return out;
}

function told(
  about: Case,
  found: FoundCondition,
  moment: Moment,
  lead: string,
  change: (statements: Statement[]) => Change,
): Omit<Advice, 'cause'> {
  const statement = waiting(about, found, moment);
  const { condition, passing, failing, came, leadMs, shown } = found;
  const here = came ? `here it came ${duration(came.afterMs)} too late` : 'here it did not come as long as was looked';
  return {
    kind: 'condition',
    text: `${lead} ${condition.words}`,
    because: passing[1]
      ? `So ${inPassing(passing)}${leadMs === undefined ? '' : `, for ${duration(leadMs)} by then`}; ${here}`
      : `${here[0]!.toUpperCase()}${here.slice(1)}; no passing attempt is known to hold it against`,
    passing: passing[1] ? passing : null,
    failing,
    shown: [
      shownStep(moment),
      ...(came?.event ? [{ attempt: moment.told.id, event: came.event, at: came.since }] : []),
      ...(shown?.held.event ? [{ attempt: shown.told.id, event: shown.held.event, at: shown.held.since }] : []),
    ],
    ...(statement ? { change: { at: moment.step.events, change: change([statement]) } } : {}),
  };
}

/** The wait as a drill has it; nothing where it cannot, or would wait for what came before it listened. */
function waiting(
  { subject, passing }: Case,
  { condition, shown, came }: FoundCondition,
  moment: Moment,
): Statement | undefined {
  const target =
    condition.locator === undefined
      ? undefined
      : targetOf(
          condition.locator,
          [subject, ...passing].map(({ evidence }) => evidence),
        );
  const until = condition.asks?.(target);
  const { told, at } = shown ?? moment;
  const since = (shown?.held ?? came)?.since ?? at;
  return until && isHeard(until, told.evidence, since, at) ? waitUntil(until) : undefined;
}
