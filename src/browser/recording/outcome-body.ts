import { reportable, type ReportedOutcome } from '../../core/evidence/attempt.ts';
import type { ToldOutcome } from './sink.ts';

/** Reads an outcome body; a text is what is wrong with it. */
export function readOutcome(body: Record<string, unknown>): ToldOutcome | string {
  const status = body.status;
  if (typeof status !== 'string' || !(reportable as readonly string[]).includes(status)) {
    return `“status” must be one of ${reportable.join(', ')}, got ${JSON.stringify(status)}`;
  }
  const text = (value: unknown): string => (typeof value === 'string' ? value.slice(0, 200_000) : '');
  return { status: status as ReportedOutcome, message: text(body.message), stack: text(body.stack) };
}
