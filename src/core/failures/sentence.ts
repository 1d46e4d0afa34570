import { quote, shorten } from '../evidence/labels.ts';
import { locatorText } from '../evidence/locator.ts';
import type { Failure } from './failure.ts';
import { markupName } from './markup.ts';

/** A limit as a person says it. */
export const limitText = (ms: number): string =>
  ms % 1000 === 0 ? `${ms / 1000} s` : ms >= 1000 && ms % 100 === 0 ? `${(ms / 1000).toFixed(1)} s` : `${ms} ms`;

/** The sentence of a failure of which only its text is known: the facts in it in our words, else its own telling line. */
export function sentenceAlone(failure: Failure, headline: string): string {
  const own = shorten(headline || failure.message, 110);
  const target = failure.locator ? quote(shorten(locatorText(failure.locator), 48)) : undefined;
  switch (failure.kind) {
    case 'no-such-element':
      return target ? `${target} was not in the page` : own;
    case 'stale-element':
      return target
        ? `${target} had already been replaced or removed`
        : 'The element had already been replaced or removed';
    case 'press-intercepted':
      return failure.obstructing
        ? `The press${target ? ` on ${target}` : ''} would have landed on ${quote(shorten(markupName(failure.obstructing), 48))}, which lay over it`
        : own;
    case 'not-interactable':
      return target ? `${target} could not be acted on: not visible, not enabled or not in view` : own;
    case 'timeout':
      return target
        ? `${target} did not become what was waited for${failure.limitMs ? ` in ${limitText(failure.limitMs)}` : ''}`
        : own;
    case 'assertion':
      return failure.expected === undefined || failure.actual === undefined
        ? own
        : `${quote(shorten(failure.actual, 36))} came where ${quote(shorten(failure.expected, 36))} was expected`;
    default:
      return own || 'It failed, and nothing was recorded of why';
  }
}
