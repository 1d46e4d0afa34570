import type { StepEvent } from './event.ts';

/** A function that is called this often, with so many different arguments, carries others. */
const leastCalls = 5;
const leastArguments = 3;
/** From this share of all steps on, nobody can say what a test did. */
const mostShare = 0.5;

/**
 * Steps of a client that calls one function of its own for everything: what each of them was stands in arguments that nobody
 * could read.
 */
export function carriedSteps(steps: readonly StepEvent[]): StepEvent[] {
  const bySource = new Map<string, StepEvent[]>();
  for (const step of steps) {
    const { action, input, locator } = step.data;
    if (action !== 'script' || locator || !input) continue;
    const known = bySource.get(input);
    if (known) known.push(step);
    else bySource.set(input, [step]);
  }
  return [...bySource.values()].flatMap((calls) => {
    const given = new Set(calls.map(({ data }) => JSON.stringify(data.arguments ?? [])));
    return calls.length >= leastCalls && given.size >= leastArguments ? calls : [];
  });
}

/** Whether enough of a test's steps say what they did: else they are neither compared nor counted. */
export const isUnderstood = (steps: readonly StepEvent[]): boolean =>
  carriedSteps(steps).length <= steps.length * mostShare;
