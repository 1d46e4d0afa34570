import { arrivedAt } from '../evidence/event.ts';
import type { Evidence } from '../evidence/prepare.ts';
import { median } from '../stats/median.ts';
import { conditionsAt, conditionsOff, stillMs, type Condition, type ConditionKind, type Held } from './condition.ts';
import type { Moment, Told } from './told.ts';

/** A condition that told passing from failing attempts, with what speaks for it. */
export interface FoundCondition {
  condition: Condition;
  /** In how many of how many known it was so at the step. */
  passing: [number, number];
  failing: [number, number];
  /** When it came in the failing attempt after all, and how long after the step, ms. */
  came?: Held & { afterMs: number };
  /** For how long it had been so in passing attempts, in the middle, ms. */
  leadMs?: number;
  /** The passing attempt that shows it, and when it came to the step. */
  shown?: { told: Told; at: number; held: Held };
  score: number;
}

/** What a person would sooner wait for: the thing itself before the traffic behind it. */
const worth: Record<ConditionKind, number> = {
  enabled: 5,
  attribute: 4,
  text: 4.2,
  visible: 4.4,
  present: 4,
  uncovered: 4.4,
  still: 4.2,
  gone: 4,
  count: 3.6,
  answered: 3,
  page: 3.4,
  loaded: 2.6,
  title: 2,
  said: 1.4,
};
/** What came later than this after the step had nothing to do with it any more. */
const longestLater = 20_000;

/**
 * Conditions that were so before a step in every passing attempt and were not in the failing ones: what a
 * test could have waited for. Those that came after all in the failing attempt, on the target itself, and
 * that had only just come in passing ones are the best.
 * @param subject the failing attempt at its step @param failing others of its family @param passing at the same step
 * @returns the best first; empty when nothing is so in all passing and in none of the failing attempts
 */
export function conditionsBefore(
  subject: Moment,
  failing: readonly Moment[],
  passing: readonly Moment[],
): FoundCondition[] {
  const own = subject.step.locator;
  const asked = new Map<string, Condition>();
  for (const { told, at } of passing.slice(0, 3)) for (const one of conditionsAt(told, at)) asked.set(one.key, one);
  for (const one of conditionsOff(subject.told, subject.at)) if (!asked.has(one.key)) asked.set(one.key, one);
  return [...asked.values()]
    .flatMap((condition) => judged(condition, subject, failing, passing) ?? [])
    .map((one) => ({ ...one, score: scoreOf(one, own) }))
    .sort((a, b) => b.score - a.score);
}

/**
 * The same from the failing attempt alone: what was not so at the step and came soon after it.
 * @param by when what came late was there, ms
 */
export function conditionsAfter(subject: Moment, by: number): FoundCondition[] {
  const own = subject.step.locator;
  return conditionsAt(subject.told, by)
    .flatMap((condition) => {
      if (condition.holds(subject.told.evidence, subject.at) !== false) return [];
      const came = comes(condition, subject);
      return came
        ? [{ condition, passing: [0, 0] as [number, number], failing: [0, 1] as [number, number], came, score: 0 }]
        : [];
    })
    .map((one) => ({ ...one, score: scoreOf(one, own) }))
    .sort((a, b) => b.score - a.score);
}

function judged(
  condition: Condition,
  subject: Moment,
  failing: readonly Moment[],
  passing: readonly Moment[],
): Omit<FoundCondition, 'score'> | undefined {
  if (condition.holds(subject.told.evidence, subject.at) !== false && !isCovered(condition, subject)) return undefined;
  const known = passing.flatMap(({ told, at }) => {
    const held = condition.holds(told.evidence, at);
    return held === undefined ? [] : [{ told, at, held }];
  });
  const so = known.flatMap(({ told, at, held }) => (held ? [{ told, at, held }] : []));
  if (so.length === 0 || so.length < known.length || known.length < passing.length / 2) return undefined;
  const others = failing.flatMap(({ told, at }) => {
    const held = condition.holds(told.evidence, at);
    return held === undefined ? [] : [Boolean(held)];
  });
  const hits = others.filter(Boolean).length;
  if (hits > others.length * 0.2) return undefined;
  const came = comes(condition, subject);
  const shown = so[0]!;
  return {
    condition,
    passing: [so.length, known.length],
    failing: [hits, others.length + 1],
    ...(came ? { came } : {}),
    leadMs: median(so.map(({ at, held }) => at - held.since)),
    shown,
  };
}

/** The browser itself said that something lay over what was pressed. */
const isCovered = ({ kind, locator }: Condition, { step }: Moment): boolean =>
  kind === 'uncovered' && locator === step.locator && step.error === 'element click intercepted';

/** When a condition that did not hold at a step came to hold after it. */
function comes(condition: Condition, { told, at }: Moment): FoundCondition['came'] {
  // What is no longer so because the page is gone has not come.
  const left = condition.key.includes('≠')
    ? told.evidence.page.find((one) => one.kind === 'navigation-committed' && one.at > at)?.at
    : undefined;
  for (const time of times(told.evidence, at)) {
    if (left !== undefined && time >= left) return undefined;
    const held = condition.holds(told.evidence, time);
    if (held && held.since > at) return { ...held, afterMs: held.since - at };
  }
  return undefined;
}

const remembered = new WeakMap<Evidence, number[]>();

/** The times after a moment at which anything changed. */
function times(evidence: Evidence, after: number): number[] {
  let all = remembered.get(evidence);
  if (!all) {
    const { lifelines, network, page, console: lines } = evidence;
    const elements = [...lifelines.values()].flatMap(({ segments }) => segments.map(({ from }) => from));
    all = [
      ...elements,
      // What stands still does so a moment after it has moved.
      ...elements.map((time) => time + stillMs),
      ...network.map(arrivedAt),
      ...page.map(({ at }) => at),
      ...lines.map(({ at }) => at),
      evidence.until,
    ].sort((a, b) => a - b);
    remembered.set(evidence, all);
  }
  const from = all.findIndex((time) => time > after);
  return from < 0 ? [] : all.slice(from).filter((time) => time <= after + longestLater);
}

/** That something else stands still says little of what is done. */
export const worthOf = ({ kind, locator }: Condition, own: string | undefined): number =>
  worth[kind] - (kind === 'still' && locator !== own ? 3 : 0);

function scoreOf({ condition, came, leadMs, passing: [hits] }: Omit<FoundCondition, 'score'>, own?: string): number {
  // One that never came in the failing attempt may be waited for in vain.
  const coming = came ? 3 + (came.afterMs < 3000 ? 1 : 0) : 0;
  const close = leadMs === undefined ? 0 : leadMs < 1500 ? 1 : leadMs > 8000 ? -1 : 0;
  // A class of a thing that is made up, or a text that is data, seldom is so in many attempts by chance.
  const many = Math.min(1, hits / 10);
  return (
    worthOf(condition, own) +
    (condition.locator !== undefined && condition.locator === own ? 3 : 0) +
    coming +
    close +
    many
  );
}
