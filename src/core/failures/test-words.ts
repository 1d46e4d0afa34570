import type { Failure } from './failure.ts';
import { headlineOf } from './message.ts';

/** A library writes its locator there, which the step tells already. */
const ofLibrary = /\bby\.|[#.[]\w|selector|xpath|\/\/|\bto be\b|\belement\b/i;

/** What the test itself calls what it checked or waited for: “total with a child”, “heading "Guests"”. */
export function testWords({ kind, message }: Pick<Failure, 'kind' | 'message'>): string | undefined {
  const head = headlineOf(message);
  const told =
    kind === 'assertion'
      ? /^([^:"'“\n]{2,80}): expected\b/i.exec(head)
      : kind === 'timeout'
        ? /\bwaiting for ([^\n]{2,100})$/i.exec(head)
        : null;
  const words = told?.[1]?.trim();
  return words && !ofLibrary.test(words) ? words : undefined;
}
