import type { StepEvent } from '../evidence/event.ts';
import { shortHash } from '../evidence/hash.ts';
import { locatorKey } from '../evidence/locator.ts';
import type { Failure, FailureKind } from '../failures/failure.ts';
import { headlineOf } from '../failures/message.ts';
import { testWords } from '../failures/test-words.ts';

/** A message without what changes from one failure to the next: numbers, ids, quoted data, paths, times. */
export function normaliseMessage(message: string): string {
  return message
    .split('\n')[0]!
    .slice(0, 600)
    .replace(/\b[a-z]+:\/\/\S+/gi, '<address>')
    .replace(/\d{4}-\d\d-\d\d[T ]\d\d:\d\d(?::\d\d(?:[.,]\d+)?)?(?:Z|[+-]\d\d:?\d\d)?/g, '<time>')
    .replace(/(?:[A-Za-z]:)?(?:[\\/][\w.@~-]+){2,}(?::\d+)*/g, '<path>')
    .replace(/"[^"]*"|“[^”]*”|`[^`]*`|(?<!\w)'[^']*'(?!\w)/g, '<value>')
    .replace(/\b(?=[0-9a-f-]*\d)[0-9a-f]{8,}(?:-[0-9a-f]{4,})*\b/gi, '<id>')
    .replace(/\b[A-Za-z]*[-_]?\d[\w.-]*/g, '<n>')
    .replace(/\s+/g, ' ')
    .trim()
    .toLowerCase();
}

/** Failures that mean the same wherever in the test's code they come up. */
const placeless = new Set<FailureKind>(['unreachable', 'browser-gone']);
/** Failures of which the locator says what failed. */
const ofLocator = new Set<FailureKind>([
  'no-such-element',
  'stale-element',
  'press-intercepted',
  'not-interactable',
  'timeout',
  'invalid-locator',
]);

/** A generated part of a locator (a number, a long id) does not make another failure. */
const steadyLocator = (failure: Failure): string => locatorKey(failure.locator!).replace(/\d+/g, '#');

/** What begins the test's own words in a fingerprint: no locator holds it. */
const wordsFrom = '|“';
/** The test’s own words, in which a number does not make another failure; nothing where it has none. */
function steadyWords(failure: Failure): string {
  const words = testWords(failure);
  return words ? `${wordsFrom}${words.replace(/\d+/g, '#').toLowerCase()}”` : '';
}

/** What runners and languages call a test's own body in a stack. */
const bodyName =
  /^(?:async |Object\.|Context\.|Suite\.|Test\.)?(?:tests?|it|spec|scenario|body|fn|run|callback|anonymous|<anonymous>|test[_A-Z]\w{0,200})$/;
/** Failures that lie where they come up: in a helper that tests share they are one, in the bodies of two tests they are two. */
const ofPlace = new Set<FailureKind>([...ofLocator, 'assertion']);

const mostTitle = 400;
/** A test as far as its rows of data go: what is numbered, quoted or bracketed in its title does not make another. */
const steadyTitle = (title: string): string =>
  title
    .slice(0, mostTitle)
    .replace(/"[^"]{0,100}"|“[^”]{0,100}”|'[^']{0,100}'|\([^)]{0,100}\)|\[[^\]]{0,100}\]/g, '')
    .replace(/\d+/g, '#')
    .replace(/\s+/g, ' ')
    .trim();

/** Which test's own body a failure lies in; nothing where it lies in code that tests may share, or nobody knows. */
function bodyOf({ kind, ownFrame }: Failure, test: string | undefined): string {
  if (test === undefined || !ownFrame || !ofPlace.has(kind)) return '';
  return ownFrame.name === undefined || bodyName.test(ownFrame.name) ? ` in ${shortHash(steadyTitle(test))}` : '';
}

/**
 * What makes two failures the same failure: its kind, the step it happened at, what the test calls it and, where it lies in a
 * test's own body rather than in code that tests share, which test that is. Where no
 * step is known: the locator, or the normalised telling line and the place in the team's own code (by
 * function, since lines shift from commit to commit; by line where no function is told).
 */
export function fingerprint(failure: Failure, step: StepEvent | undefined, test?: string): string {
  if (step) {
    const at = `${failure.kind}|${step.data.command}|${step.data.subject ?? ''}|${step.data.locator ? locatorKey(step.data.locator) : ''}`;
    const words = steadyWords(failure);
    const body = bodyOf(failure, test);
    return `${at}${words || (body && `${wordsFrom}”`)}${body}`;
  }
  if (failure.locator && ofLocator.has(failure.kind)) return `${failure.kind}|${steadyLocator(failure)}|`;
  const { ownFrame } = failure;
  const file = ownFrame?.file.split(/[\\/]/).at(-1);
  const place = !ownFrame || placeless.has(failure.kind) ? '' : `${file}:${ownFrame.name ?? ownFrame.line}`;
  return `${failure.kind}|${place}|${normaliseMessage(headlineOf(failure.message || failure.stack))}`;
}

/** The stable id of a family: the same failure has the same id in every run and every workspace. */
export const familyId = (print: string): string => `f-${shortHash(print)}`;

/** A fingerprint without which test's body it lies in: what it was before anybody asked. */
export const bodiless = (print: string): string =>
  print.includes(wordsFrom) ? print.replace(/ in [0-9a-z]{11}$/, '').replace(/\|“”$/, '') : print;

/**
 * A fingerprint as far as a drill's trial can have the same: a drill replays the step, knows nothing of the test's words or
 * body, nor which of several matches it was, checks one by one what the test may have joined, and has one way to run a
 * script. A dialog in the way is met by whatever step comes next, here another than there.
 */
export function wordless(print: string): string {
  const own = print.split(wordsFrom, 1)[0]!;
  if (/^unexpected-dialog\|(?!.*\balert\b)/.test(own)) return 'unexpected-dialog';
  return own.replace('|execute async script|', '|execute script|').replace(/\[\d+\](?= >>|\||$)/g, '');
}
