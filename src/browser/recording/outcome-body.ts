import { reportable, type ReportedOutcome } from '../../core/evidence/attempt.ts';
import type { ToldOutcome } from './sink.ts';

/** Texts of a failure are kept to this length; what is cut here is cut again once it is masked. */
const longest = 1_000_000;

/** Reads an outcome body; a text is what is wrong with it. */
export function readOutcome(body: Record<string, unknown>): ToldOutcome | string {
  const status = body.status;
  if (typeof status !== 'string' || !(reportable as readonly string[]).includes(status)) {
    return `“status” must be one of ${reportable.join(', ')}, got ${JSON.stringify(status)}`;
  }
  const text = (value: unknown): string => (typeof value === 'string' ? value.slice(0, longest) : '');
  return { status: status as ReportedOutcome, message: text(body.message), stack: text(body.stack) };
}
