import type { Locator, StepEvent } from './event.ts';
import { locatorKey } from './locator.ts';
import { maskMark } from './masking.ts';

/**
 * The locators that finds asked with, each once, in the order of their first use.
 * One that holds something masked is left out: put to a page again it asks for something else.
 */
export function locatorsUsed(steps: readonly StepEvent[]): Locator[] {
  const used = new Map<string, Locator>();
  for (const { data } of steps) {
    if (data.action !== 'find' || !data.locator) continue;
    const key = locatorKey(data.locator);
    if (!used.has(key) && !key.includes(maskMark)) used.set(key, data.locator);
  }
  return [...used.values()];
}
