import { comparisons, elementSubjects, pageSubjects, strategies } from './drill.ts';
import { statements } from './statements.ts';

/** What may be written at a place of a drill. */
export interface Completion {
  /** What takes the place of the word that was begun. */
  insert: string;
  /** How many characters before the place it takes away. */
  replaces: number;
}

const most = 12;
/** Locators further down than this are not offered. */
const mostText = 200_000;

const locators = (text: string): string[] => [
  ...new Set(
    [
      ...text.matchAll(/\b(css|xpath|link|partial link|tag|role|label|shown|test id|by script) ("(?:[^"\\\n]|\\.)*")/g),
    ].map(([, by, value]) => `${by} ${value}`),
  ),
];
const namesOf = (text: string, word: string): string[] => [
  ...new Set(
    [...text.matchAll(new RegExp(`^[ \\t]*(?:${word})[ \\t]+([A-Za-z_][\\w-]*)[ \\t]*=`, 'gm'))].map(
      ([, name]) => name!,
    ),
  ),
];
const subjects = [...elementSubjects.map((what) => `${what} of`), ...pageSubjects];
const conditions = ['request ""', 'console says ""', 'all is quiet for', 'script ""', 'either'];

/** After these words an element is named. */
const wantsTarget =
  /(?:^|\s)(?:press|clear|hover|click|twice|right|middle|drag|into|in|of|to frame|scroll to|place of)\s+$/;
const wantsLocator = /=\s+$/;

/**
 * What may come next at a place in a drill: statements at the head of a line, then elements and locators that the drill
 * already speaks of, subjects, comparisons, remembered values.
 * @param caret the place, counted in characters from the start of the text
 * @param ready conditions by which the pages of the application tell that they are ready: offered before all others
 */
export function completionsAt(text: string, caret: number, ready: readonly string[] = []): Completion[] {
  const line = text.slice(text.lastIndexOf('\n', caret - 1) + 1, caret);
  let from = line.length;
  while (from > 0 && /[\w-]/.test(line[from - 1]!)) from--;
  const begun = line.slice(from);
  const before = line.slice(0, from);
  return wordsAfter(before, text.slice(0, mostText), ready)
    .filter((word) => word.toLowerCase().startsWith(begun.toLowerCase()) && word !== begun)
    .slice(0, most)
    .map((insert) => ({ insert, replaces: begun.length }));
}

function wordsAfter(before: string, text: string, ready: readonly string[]): string[] {
  const elements = namesOf(text, 'find');
  const values = namesOf(text, 'remember|draw');
  if (/^\s*(?:when\s.*\sthen\s+)?$/.test(before)) return Object.keys(statements);
  if (/(?:^|\s)(?:until|check|when|either|or)\s+$/.test(before))
    return [...ready, ...subjects, ...elements, ...locators(text), ...conditions];
  if (/(?:^|\s)(?:read|remember\s+[\w-]+\s+=)\s+$/.test(before)) return [...subjects, 'place of', 'script ""'];
  if (/(?:^|\s)draw\s+[\w-]+\s+=\s+$/.test(before))
    return ['word', 'name', 'email', 'letters', 'digits', 'number', 'one of'];
  if (wantsTarget.test(before)) return [...elements, ...locators(text), ...strategies.map((by) => `${by} ""`)];
  if (wantsLocator.test(before)) return [...locators(text), ...strategies.map((by) => `${by} ""`)];
  if (/(?:^|\s)(?:open|type|choose)\s+$|\+\s+$|\s(?:is|contains|is not)\s+$/.test(before)) return values;
  if (/"\s+$|(?:title|address|dialog|windows)\s+$/.test(before))
    return [...comparisons, 'is there', 'is gone', 'is still', 'in', 'match', 'up to', 'every', 'into', 'then'];
  return [];
}
