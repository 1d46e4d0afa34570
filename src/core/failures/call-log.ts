import type { FailureKind } from './failure.ts';

/** One line of what a client logged of a call that did not come to its end. */
export interface LoggedLine {
  /** How deep it stands under the others. */
  depth: number;
  /** How often it happened, where the log says so. */
  times: number;
  text: string;
}

/** A call that a client gave up, by its own log. */
export interface CallLog {
  lines: LoggedLine[];
  /** Why the element was not good enough the last time it was looked at. */
  reason?: { kind: FailureKind; text: string };
}

const mostLines = 400;
const longestLine = 2000;
/** What a line of a list begins with: `- waiting for …`, `2 × element is not visible`, `1. retrying`. */
const bullet = /^(?:[-*•·–>]|\d{1,4}[.)])\s/;
const counted = /^(\d{1,5})\s?[×x]\s/;
const bulleted = /^\s*(?:[-*•·–>]|\d{1,4}[.)]|\d{1,5}\s?[×x])\s/;

/** What is said of an element that is not yet good enough, or no longer; the first that fits decides. */
const reasons: readonly [RegExp, FailureKind][] = [
  [
    /intercepts? pointer events|would receive the (?:click|press|tap)|(?:is|was) (?:covered|obscured|hidden) by|lies? over it|\bobscur/i,
    'press-intercepted',
  ],
  [
    /not attached|detached|no longer (?:attached|connected|in the (?:DOM|document|page))|stale|was (?:removed|replaced)/i,
    'stale-element',
  ],
  [
    /\bnot (?:visible|enabled|stable|editable|interactable|displayed)|\bdisabled\b|\bis (?:hidden|invisible|animating|moving)|outside (?:of )?the viewport|zero size|\binert\b/i,
    'not-interactable',
  ],
];
/** From here on the act itself had been done; what is waited for then is something else. */
const carriedOut = /\b(?:action|click|press|input) (?:done|performed|dispatched)\b|\bperforming\b/i;

/**
 * The log of waiting that many clients write under a failure: a list, line by line, of what was waited for, what was found
 * and why it was not good enough. Read by its form, and by what is said of elements; not by the words of one client.
 * @param text the whole message, without colours
 * @returns undefined where there is none: fewer than two lines of a list under the headline
 */
export function callLogIn(text: string): CallLog | undefined {
  const rest = text.split('\n').slice(0, mostLines);
  const from = rest.findIndex((line) => bulleted.test(line));
  if (from < 0) return undefined;
  const lines: LoggedLine[] = [];
  for (const line of rest.slice(from)) {
    if (!bulleted.test(line)) break;
    lines.push(lineOf(line.slice(0, longestLine)));
  }
  if (lines.length < 2) return undefined;
  let reason: CallLog['reason'];
  for (const { text: said } of lines) {
    if (carriedOut.test(said)) reason = undefined;
    const kind = reasons.find(([words]) => words.test(said))?.[1];
    // What is waited for names states as well: “waiting for element to be visible, enabled”.
    if (kind && !/^waiting for\b/i.test(said)) reason = { kind, text: said };
  }
  return { lines, ...(reason ? { reason } : {}) };
}

function lineOf(line: string): LoggedLine {
  const text = line.trimStart();
  const depth = line.length - text.length;
  const item = text.replace(bullet, '').trimStart();
  const times = Number(counted.exec(item)?.[1] ?? 1);
  return { depth, times, text: item.replace(counted, '').trim() };
}
