import { readMessage } from '../failures/message.ts';
import type { FailureKind } from '../failures/failure.ts';
import type { StepEvent, WireError } from './event.ts';
import { stepLabel } from './labels.ts';
import { asking } from './waits.ts';

/** The error of the command that would have failed, where a driver and not the test's runner had carried it out. */
const codes: Partial<Record<FailureKind, WireError['code']>> = {
  'stale-element': 'stale element reference',
  'press-intercepted': 'element click intercepted',
  'not-interactable': 'element not interactable',
};

/** What a message says was being done: the act that a client could not carry out, in the words of many of them. */
const acts: readonly [RegExp, 'press' | 'type'][] = [
  [
    /\b(?:click|dblclick|double[- ]?click|tap|press|check|uncheck|hover|drag)\w*\s*(?:\(|:|action\b)|(?:attempting|trying|unable|failed) (?:to )?(?:click|press|tap)/i,
    'press',
  ],
  [
    /\b(?:fill|type|clear|input|setValue|sendKeys|selectOption)\w*\s*(?:\(|:|action\b)|(?:attempting|trying|unable|failed) (?:to )?(?:fill|type|enter)/i,
    'type',
  ],
];

/** The act that a message speaks of in its first line; nothing where it speaks of none. */
export function actIn(message: string): 'press' | 'type' | undefined {
  const [head = ''] = message.split('\n');
  return acts.find(([words]) => words.test(head.slice(0, 300)))?.[1];
}

/**
 * A runner that presses by itself looks first where its element is, and what lies there: when it does not like what it
 * sees, it presses nothing and says so in the message alone. The look that was its last is then the press that failed,
 * and what was asked of an element that is gone is what failed with it.
 * @param step that at which an attempt failed
 * @param message what the test said of it; @param more what its report said besides
 */
export function asMeant(step: StepEvent, message: string, more = ''): StepEvent {
  const { data } = step;
  if (data.error || !data.locator) return step;
  const { kind, limitMs, locator } = readMessage(message, more);
  const act = actIn(message);
  const code = codes[kind] ?? (act && limitMs !== undefined ? 'timeout' : undefined);
  if (code === undefined) return step;
  const error = { code, message };
  // Whatever it asked of the element last, it asked in order to act on it; of another element it did not.
  const isSpokenOf = locator === undefined || locator.value === data.locator.value;
  const wasForAct = data.command === 'get element rect' || (act !== undefined && asking.has(data.action) && isSpokenOf);
  if (!wasForAct)
    return kind === 'stale-element' && data.action !== 'find' ? { ...step, data: { ...data, error } } : step;
  const { result: _seen, subject: _rect, input: _script, arguments: _given, ...rest } = data;
  const meant =
    act === 'type'
      ? ({ ...rest, command: 'element send keys', action: 'type', error } as const)
      : ({ ...rest, command: 'element click', action: 'press', error } as const);
  return { ...step, data: { ...meant, label: stepLabel(meant) } };
}
