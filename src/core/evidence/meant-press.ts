import { readMessage } from '../failures/message.ts';
import type { FailureKind } from '../failures/failure.ts';
import type { StepEvent, WireError } from './event.ts';
import { stepLabel } from './labels.ts';

/** The error of the command that would have failed, where a driver and not the test's runner had carried it out. */
const codes: Partial<Record<FailureKind, WireError['code']>> = {
  'stale-element': 'stale element reference',
  'press-intercepted': 'element click intercepted',
  'not-interactable': 'element not interactable',
};

/**
 * A runner that presses by itself looks first where its element is, and what lies there: when it does not like what it
 * sees, it presses nothing and says so in the message alone. The look that was its last is then the press that failed,
 * and what was asked of an element that is gone is what failed with it.
 * @param step that at which an attempt failed
 * @param message what the test said of it
 */
export function asMeant(step: StepEvent, message: string): StepEvent {
  const { data } = step;
  if (data.error || !data.locator) return step;
  const { kind } = readMessage(message);
  const code = codes[kind];
  if (code === undefined) return step;
  const error = { code, message };
  if (data.command !== 'get element rect')
    return kind === 'stale-element' && data.action !== 'find' ? { ...step, data: { ...data, error } } : step;
  const { result: _seen, subject: _rect, ...rest } = data;
  const press = { ...rest, command: 'element click', action: 'press', error } as const;
  return { ...step, data: { ...press, label: stepLabel(press) } };
}
