import { linearPattern } from '../patterns/linear-pattern.ts';
import type { Comparison } from './drill.ts';

/** Whether a value that was read is as a drill wants it. What is no number is neither at least nor at most one. */
export function holds(actual: string, comparison: Comparison, value: string): boolean {
  switch (comparison) {
    case 'is':
      return actual === value;
    case 'is not':
      return actual !== value;
    case 'contains':
      return actual.includes(value);
    case 'does not contain':
      return !actual.includes(value);
    case 'is at least':
      return numberOf(actual) >= numberOf(value);
    case 'is at most':
      return numberOf(actual) <= numberOf(value);
    case 'matches':
      return linearPattern(value).fits(actual);
    case 'does not match':
      return !linearPattern(value).fits(actual);
    case 'reads':
      return bare(actual) === bare(value);
    case 'does not read':
      return bare(actual) !== bare(value);
  }
}

/** Where an element holds others, its text has spaces or lines between them, or none, depending on who reads it. */
const bare = (text: string): string => text.replace(/\s+/g, '');

/** The number a text begins with, past a currency sign; separators of thousands are left out. */
export function numberOf(text: string): number {
  const found = /^[^\d\-]{0,3}(-?\d[\d,]*(?:\.\d+)?)/.exec(text.trim());
  return found ? Number(found[1]!.replaceAll(',', '')) : NaN;
}
