import type { Amount, Remembered, Value } from './drill.ts';

/** What the lines of a drill remembered so far, by name. */
export type Memory = ReadonlyMap<string, unknown>;

/** @throws Error in words when the part is not there */
export function recall({ name, path = [] }: Remembered, memory: Memory): unknown {
  let value = memory.get(name);
  for (const key of path) {
    const own = value !== null && typeof value === 'object' && Object.hasOwn(value, key);
    if (!own) throw new Error(`what was remembered as “${name}” has no part “${path.join('.')}”`);
    value = (value as Record<string, unknown>)[key];
  }
  return value;
}

const asText = (value: unknown): string => (typeof value === 'string' ? value : (JSON.stringify(value) ?? ''));

/** A value with what was remembered put in. */
export function resolved(value: Value, memory: Memory): string {
  if (typeof value === 'string') return value;
  return value.parts.map((part) => (typeof part === 'string' ? part : asText(recall(part, memory)))).join('');
}

/** @throws Error in words when what was remembered is no number */
export function amountOf(amount: Amount, memory: Memory): number {
  if (typeof amount === 'number') return amount;
  const value = Number(recall(amount.of, memory));
  if (!Number.isFinite(value)) throw new Error(`what was remembered as “${amount.of.name}” is no number there`);
  return Math.round(value + amount.plus);
}
