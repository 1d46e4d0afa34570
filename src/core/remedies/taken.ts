import type { Statement } from '../drill/drill.ts';
import { maskMark } from '../evidence/masking.ts';
import { waitUntil } from './change.ts';
import { targetOf } from './targets.ts';
import { commandOf, type Moment } from './told.ts';

/** A step as a passing attempt took it, for a drill of one that did not; empty where a drill cannot. */
export function takenStatements({ told, step }: Moment): Statement[] {
  const data = commandOf(told, step)?.data;
  if (!data) return [];
  const { action, command, input = '' } = data;
  const target = step.locator === undefined ? undefined : targetOf(step.locator, [told.evidence]);
  const there = (statement: Statement): Statement[] =>
    target ? [waitUntil({ kind: 'there', target }), statement] : [];
  switch (action) {
    case 'press':
    case 'clear':
      return target ? there({ do: action, target }) : [];
    case 'type':
      return target && !input.includes(maskMark) ? there({ do: 'type', text: input, target }) : [];
    case 'open':
      return input ? [{ do: 'open', address: input }] : [];
    case 'dialog': {
      const open = { kind: 'value', subject: { what: 'dialog' }, comparison: 'matches', value: '' } as const;
      if (command !== 'accept alert' && command !== 'dismiss alert') return [];
      return [waitUntil(open), { do: 'dialog', answer: command === 'accept alert' ? 'accept' : 'dismiss' }];
    }
    case 'frame':
      if (command === 'switch to parent frame') return [{ do: 'to frame', where: 'parent' }];
      return target ? there({ do: 'to frame', target }) : [];
    case 'window':
      return command === 'switch to window' ? newestWindow : [];
    default:
      return [];
  }
}

/** Waits for another window and goes there. */
export const newestWindow: Statement[] = [
  waitUntil({ kind: 'value', subject: { what: 'windows' }, comparison: 'is at least', value: '2' }),
  { do: 'to newest window' },
];
