import { endOf, type StepEvent } from '../evidence/event.ts';
import { quote, shorten, targetName } from '../evidence/labels.ts';
import { nameAt, type Lifeline } from '../evidence/lifelines.ts';
import { locatorKey, locatorText } from '../evidence/locator.ts';
import type { Evidence } from '../evidence/prepare.ts';
import type { Failure, FailureKind } from './failure.ts';
import { readMessage } from './message.ts';
import { markupName } from './markup.ts';
import { limitText, sentenceAlone } from './sentence.ts';
import { testWords } from './test-words.ts';
import { readStack } from './stack.ts';

/** The WebDriver error codes and what kind of failure each is. */
const wireKinds: Record<string, FailureKind> = {
  'stale element reference': 'stale-element',
  'detached shadow root': 'stale-element',
  'element click intercepted': 'press-intercepted',
  'no such element': 'no-such-element',
  'no such shadow root': 'no-such-element',
  'element not interactable': 'not-interactable',
  'move target out of bounds': 'not-interactable',
  'no such window': 'no-such-window',
  'no such frame': 'no-such-window',
  'unexpected alert open': 'unexpected-dialog',
  'no such alert': 'unexpected-dialog',
  timeout: 'timeout',
  'script timeout': 'timeout',
  'javascript error': 'script-error',
};

/** Reads a failed attempt: what failed, where, what came instead of what. Undefined for one that did not fail. */
export function readFailure(evidence: Evidence): Failure | undefined {
  const { facts, failing } = evidence;
  if (facts.outcome !== 'failed' && facts.outcome !== 'errored') return undefined;
  const error = failing?.data.error;
  const message = facts.message || error?.message || '';
  const told = readMessage(message, facts.stack);
  const values = told.values ?? toldCheck(evidence);
  const kind: FailureKind =
    told.kind === 'timeout'
      ? 'timeout'
      : ((error && wireKinds[error.code]) ?? (told.kind === 'driver-error' && values ? 'assertion' : told.kind));
  const intercepted = error ? readMessage(error.message) : told;
  const locator = failing?.data.locator ?? told.locator;
  const failure: Failure = {
    kind,
    sentence: '',
    ...(failing ? { step: failing.id, at: error ? endOf(failing) : failing.at } : {}),
    ...(locator ? { locator } : {}),
    ...(intercepted.point ? { point: intercepted.point } : {}),
    ...(intercepted.obstructing ? { obstructing: intercepted.obstructing } : {}),
    ...(kind === 'assertion' || kind === 'timeout' ? values : {}),
    ...(told.limitMs === undefined ? {} : { limitMs: told.limitMs }),
    ...(told.window ? { window: told.window } : {}),
    ...readStack(
      facts.stack ? `${facts.stack}\n${facts.stack.includes(message) ? '' : message}` : message,
      facts.file,
      facts.rules,
    ),
    message,
    stack: facts.stack,
  };
  failure.sentence = sentenceOf(failure, failing, evidence, told.headline);
  return failure;
}

function toldCheck(evidence: Evidence): { expected: string; actual: string } | undefined {
  const check = evidence.notes.findLast((note) => note.kind === 'check' && note.data.ok === false);
  if (!check || check.data.expected === undefined || check.data.actual === undefined) return undefined;
  return { expected: check.data.expected, actual: check.data.actual };
}

function sentenceOf(failure: Failure, step: StepEvent | undefined, evidence: Evidence, headline: string): string {
  if (!step) return sentenceAlone(failure, headline);
  const line = step.data.locator && evidence.lifelines.get(locatorKey(step.data.locator));
  const target = targetName(step.data, line && nameAt(line, step.at));
  const label = step.data.label;
  switch (failure.kind) {
    case 'stale-element':
      return `${label} hit an element that had already been replaced or removed`;
    case 'press-intercepted':
      return `${label} would have landed on ${coverName(failure, line, endOf(step))}, which lay over it`;
    case 'no-such-element':
      return `${target} was not in the page`;
    case 'not-interactable':
      return `${label} could not reach it: not visible or not in view`;
    case 'unexpected-dialog':
      return `${label} met a dialog that nobody had answered`;
    case 'no-such-window':
      return `${label} spoke to a window that is gone`;
    case 'script-error':
      return `${label} threw in the page`;
    case 'timeout':
      return waitedFor(failure, step, evidence, target);
    case 'assertion':
      return failure.expected === undefined
        ? `The check after “${label}” failed: ${shorten(failure.message, 70)}`
        : `${readName(failure, step, target)} read ${quote(shorten(failure.actual ?? '', 32))} where ${quote(shorten(failure.expected, 32))} was expected`;
    default:
      return sentenceAlone(failure, headline);
  }
}

/** A wait that gave up: by the test’s own words where it has them, with what its tries saw. */
function waitedFor(failure: Failure, step: StepEvent, { waits, insideWait }: Evidence, target: string): string {
  const words = testWords(failure);
  const wait = waits.find(({ id }) => id === (insideWait.get(step.id) ?? step.id));
  const tries = wait?.data.polls;
  const { error, result, locator, subject } = step.data;
  // What it came to say later is no name for it: it is told by its locator.
  if (!words && subject === 'text' && typeof result === 'string' && !error && locator)
    return `${targetName(step.data)} still read ${result ? quote(shorten(result, 40)) : 'nothing'}${failure.limitMs ? ` after ${limitText(failure.limitMs)}` : ''}${tries ? `, in ${tries} tries` : ''}`;
  if (!words)
    return `${target} did not become what was waited for${failure.limitMs ? ` in ${failure.limitMs} ms` : ''}`;
  const missed = locator && (error?.code === 'no such element' || result === 0);
  const seen = missed
    ? `: ${quote(shorten(locatorText(locator), 40))} matched nothing${tries ? ` in ${tries} tries` : ''}`
    : typeof result === 'string' && !error
      ? `: ${target === 'the element' ? 'it' : readName({ ...failure, actual: result }, step, target)} read ${result ? quote(shorten(result, 32)) : 'nothing'} to the last`
      : '';
  return `Waited ${failure.limitMs ? `${limitText(failure.limitMs)} ` : ''}for ${shorten(words, 60)}${seen}`;
}

/** Something called by its own words, which were the wrong ones, is told by its locator. */
const readName = ({ actual = '' }: Failure, step: StepEvent, target: string): string =>
  target === quote(shorten(actual, 40)) ? targetName(step.data) : target;

/** What lay over a target: by its own words where the lifeline knows them, else by its markup. */
export function coverName(failure: Pick<Failure, 'obstructing'>, line: Lifeline | undefined, at: number): string {
  const covered = line?.segments.findLast((segment) => segment.from <= at && segment.state.coveredBy)?.state.coveredBy;
  const words = /“([^“”]+)”/.exec(covered ?? '')?.[1];
  if (words) return quote(shorten(words, 36));
  return failure.obstructing ? quote(shorten(markupName(failure.obstructing), 36)) : 'something';
}
