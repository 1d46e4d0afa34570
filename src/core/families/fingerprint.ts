import type { StepEvent } from '../evidence/event.ts';
import { shortHash } from '../evidence/hash.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Failure } from '../failures/failure.ts';

/** A message without what changes from one failure to the next: numbers, ids, quoted data, paths. */
export function normaliseMessage(message: string): string {
  return message
    .split('\n')[0]!
    .replace(/\b[a-z]+:\/\/\S+/gi, '<address>')
    .replace(/(?:\/[\w.-]+){2,}(?::\d+)*/g, '<path>')
    .replace(/"[^"]*"|'[^']*'|“[^”]*”|`[^`]*`/g, '<value>')
    .replace(/\b[0-9a-f]{8,}(?:-[0-9a-f]{4,})*\b/gi, '<id>')
    .replace(/\d+(?:\.\d+)?/g, '<n>')
    .replace(/\s+/g, ' ')
    .trim()
    .toLowerCase();
}

/**
 * What makes two failures the same failure: its kind and the step it happened at. The message counts
 * only where no step is known, since the same failure is worded differently by different runners.
 */
export function fingerprint(failure: Failure, step: StepEvent | undefined): string {
  const where = step
    ? `${step.data.command}|${step.data.subject ?? ''}|${step.data.locator ? locatorKey(step.data.locator) : ''}`
    : normaliseMessage(failure.message);
  return `${failure.kind}|${where}`;
}

/** The stable id of a family: the same failure has the same id in every run and every workspace. */
export const familyId = (print: string): string => `f-${shortHash(print)}`;
