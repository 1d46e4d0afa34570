/**
 * A drill is a small script that replays what an attempt did: one statement a line, `#` begins a
 * remark. The grammar is in docs/drill.md.
 */

export interface DrillLocator {
  /** Short strategy name: css, xpath, link, partial link, tag. */
  by: string;
  value: string;
  /** Which match, from 1; absent means the first. */
  match?: number;
  within?: Target;
}

/** A name given by an earlier `find`, or a locator that is looked up right then. */
export type Target = { name: string } | { locator: DrillLocator };

/** What can be read: of an element, or of the page. */
export interface Subject {
  what:
    'text' | 'attribute' | 'property' | 'style' | 'displayed' | 'enabled' | 'selected' | 'count' | 'title' | 'address';
  /** Which attribute, property or style. */
  key?: string;
  of?: Target;
}

export type Comparison = 'is' | 'is not' | 'contains' | 'matches';

export type Condition =
  | { kind: 'there'; target: Target }
  | { kind: 'value'; subject: Subject; comparison: Comparison; value: string }
  | { kind: 'script'; script: string };

export type Statement =
  | { do: 'window'; width: number; height: number }
  | { do: 'implicit'; ms: number }
  | { do: 'open'; address: string }
  | { do: 'back' }
  | { do: 'forward' }
  | { do: 'reload' }
  | { do: 'find'; name: string; locator: DrillLocator }
  | { do: 'press'; target: Target }
  | { do: 'type'; text: string; target: Target }
  | { do: 'type secret'; secret: string; target: Target }
  | { do: 'clear'; target: Target }
  | { do: 'actions'; json: string }
  | { do: 'read'; subject: Subject }
  | { do: 'check'; subject: Subject; comparison: Comparison; value: string }
  | { do: 'wait'; until: Condition; limitMs: number; everyMs: number }
  | { do: 'pause'; ms: number }
  | { do: 'script'; script: string }
  | { do: 'to window'; number: number }
  | { do: 'to frame'; target?: Target; number?: number; where?: 'top' | 'parent' }
  | { do: 'close window' }
  | { do: 'dialog'; answer: 'accept' | 'dismiss'; text?: string }
  | { do: 'screenshot' };

export type Line = Statement & { line: number };

export interface Drill {
  title: string;
  lines: Line[];
}

export interface DrillError {
  line: number;
  column: number;
  message: string;
}

export const pageSubjects: readonly Subject['what'][] = ['title', 'address'];
export const keyedSubjects: readonly Subject['what'][] = ['attribute', 'property', 'style'];
export const elementSubjects: readonly Subject['what'][] = [
  'text',
  'displayed',
  'enabled',
  'selected',
  'count',
  ...keyedSubjects,
];
export const strategies = ['css', 'xpath', 'link', 'partial link', 'tag'] as const;
