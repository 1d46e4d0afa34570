/**
 * A drill is a small script that replays what an attempt did: one statement a line, `#` begins a
 * remark. The grammar is in docs/drill.md.
 */

import { byScript } from '../evidence/locator.ts';

/** What an earlier line remembered, or a part of it. */
export interface Remembered {
  name: string;
  /** Which part of a remembered value: keys of objects, numbers of lists. */
  path?: string[];
}

/** A text, or one put together from texts and remembered values. */
export type Value = string | { parts: (string | Remembered)[] };

/** A number, or a remembered one with something added. */
export type Amount = number | { of: Remembered; plus: number };

export interface DrillLocator {
  /** Short strategy name: css, xpath, link, partial link, tag, role, label, shown, test id, by script. */
  by: string;
  value: Value;
  /** Of a role: the name a person would call the element by. */
  named?: Value;
  /** Which match, from 1; absent means the first. */
  match?: number;
  within?: Target;
}

/** A name given by an earlier `find`, or a locator that is looked up right then. */
export type Target = { name: string } | { locator: DrillLocator };

/** What can be read: of an element, or of the page. */
export interface Subject {
  what:
    | 'text'
    | 'attribute'
    | 'property'
    | 'style'
    | 'displayed'
    | 'enabled'
    | 'selected'
    | 'count'
    | 'title'
    | 'address'
    | 'dialog'
    | 'windows'
    | 'answer';
  /** Which attribute, property or style. */
  key?: string;
  of?: Target;
  /** Of an answer: the script that gives it. */
  script?: string;
  arguments?: Argument[];
}

export const comparisons = [
  'is not',
  'is at least',
  'is at most',
  'is',
  'contains',
  'does not contain',
  'matches',
  'does not match',
  'reads',
  'does not read',
] as const;
export type Comparison = (typeof comparisons)[number];

/** What a script is given. */
export type Argument = { target: Target } | { value: Value } | { number: number };

export type Condition =
  /** `gone`: no such element; `still`: its place was the same twice in a row. */
  | { kind: 'there' | 'gone' | 'still'; target: Target }
  | { kind: 'value'; subject: Subject; comparison: Comparison; value: Value }
  | { kind: 'script'; script: string; arguments?: Argument[] }
  /** An exchange whose method and address hold the text was answered since the drill last did something. */
  | { kind: 'answered'; request: string }
  /** The console had an entry that holds the text, since then. */
  | { kind: 'said'; text: string }
  /** Nothing was under way for so long. */
  | { kind: 'quiet'; forMs: number }
  /** Several rightful ends: the first that holds is enough. */
  | { kind: 'either'; of: Condition[] };

/** Made-up data, drawn anew for each trial from the drill's seed. */
export type Draw =
  | { kind: 'word' | 'name' | 'email' }
  | { kind: 'letters' | 'digits'; length: number }
  | { kind: 'number'; from: number; to: number }
  | { kind: 'one of'; texts: string[] };

/** Where a pointer goes: an element’s middle, or a place in the window. */
export type Place = { target: Target; offset?: { x: number; y: number } } | { x: Amount; y: Amount };

export type Statement =
  | { do: 'window'; width: number; height: number }
  | { do: 'implicit'; ms: number }
  | { do: 'limit'; of: 'page load' | 'script'; ms: number }
  | { do: 'seed'; number: number }
  | { do: 'group'; words: string }
  | { do: 'note'; words: string }
  | { do: 'open'; address: Value }
  | { do: 'back' }
  | { do: 'forward' }
  | { do: 'reload' }
  | { do: 'find'; name: string; locator: DrillLocator }
  | { do: 'remember'; name: string; subject: Subject }
  | { do: 'remember place'; name: string; target: Target }
  | { do: 'remember script'; name: string; script: string; arguments?: Argument[] }
  | { do: 'draw'; name: string; from: Draw }
  | { do: 'press'; target: Target }
  /** `overMs`: how long the pointer is on its way there. */
  | { do: 'click'; at: Place; how?: 'twice' | 'right' | 'middle'; overMs?: number }
  | { do: 'hover'; at: Place; overMs?: number }
  | { do: 'drag'; from: Place; to: Place }
  | { do: 'drag by'; from: Place; x: number; y: number }
  | { do: 'scroll to'; target: Target }
  | { do: 'scroll by'; x: number; y: number }
  | { do: 'keys'; keys: string }
  | { do: 'choose'; text: Value; target: Target }
  | { do: 'type'; text: Value; target: Target }
  | { do: 'type secret'; secret: string; target: Target }
  | { do: 'clear'; target: Target }
  | { do: 'actions'; json: string }
  | { do: 'read'; subject: Subject }
  | { do: 'check'; that: Condition }
  | { do: 'wait'; until: Condition; limitMs: number; everyMs: number }
  | { do: 'pause'; ms: number }
  | { do: 'script'; script: string; arguments?: Argument[] }
  | { do: 'to window'; number: number }
  | { do: 'to newest window' }
  | { do: 'to window at'; address: Value }
  | { do: 'new window'; what: 'tab' | 'window' }
  | { do: 'to frame'; target?: Target; number?: number; where?: 'top' | 'parent' }
  | { do: 'close window' }
  | { do: 'dialog'; answer: 'accept' | 'dismiss'; text?: string }
  | { do: 'cookie'; name: string; value: Value }
  | { do: 'forget cookies'; name?: string }
  /** Done only when it is so right then. */
  | { do: 'when'; that: Condition; then: Statement }
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

export const pageSubjects: readonly Subject['what'][] = ['title', 'address', 'dialog', 'windows'];
export const keyedSubjects: readonly Subject['what'][] = ['attribute', 'property', 'style'];
export const elementSubjects: readonly Subject['what'][] = [
  'text',
  'displayed',
  'enabled',
  'selected',
  'count',
  ...keyedSubjects,
];
/** Strategies of the protocol. */
export const wireStrategies = ['css', 'xpath', 'link', 'partial link', 'tag'] as const;
/** All there are: those that say what a person sees are looked up by an XPath, the last one is what a script hands out. */
export const strategies = [...wireStrategies, 'role', 'label', 'shown', 'test id', byScript] as const;

/** Statements that do something to the page or go elsewhere. */
export const acts: ReadonlySet<Statement['do']> = new Set([
  'open',
  'back',
  'forward',
  'reload',
  'press',
  'click',
  'hover',
  'drag',
  'drag by',
  'scroll to',
  'scroll by',
  'keys',
  'choose',
  'type',
  'type secret',
  'clear',
  'actions',
  'script',
  'dialog',
]);
