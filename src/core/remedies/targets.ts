import type { Target } from '../drill/drill.ts';
import { drillLocator } from '../drill/elements.ts';
import type { Locator } from '../evidence/event.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Evidence } from '../evidence/prepare.ts';

/** The locator behind a key, as a drill writes it: from the steps that used it, else read from the key where it is plain. */
export function targetOf(key: string, attempts: readonly Evidence[]): Target | undefined {
  for (const { steps } of attempts)
    for (const { data } of steps) {
      const known = data.locator && partOf(data.locator, key);
      const locator = known && drillLocator(known);
      if (locator) return { locator };
    }
  const plain = /^css=([^\n]+?)(?:\[(\d{1,6})\])?$/.exec(key);
  if (!plain || key.includes(' >> ')) return undefined;
  return { locator: { by: 'css', value: plain[1]!, ...(plain[2] ? { match: Number(plain[2]) + 1 } : {}) } };
}

const partOf = (locator: Locator, key: string): Locator | undefined =>
  locatorKey(locator) === key ? locator : locator.within && partOf(locator.within, key);
