import { isFilePath } from '../evidence/file-path.ts';
import type { Drill, Statement } from './drill.ts';

/** Paths in one text that is typed into a file field, a line each. */
export const pathsIn = (typed: string): string[] => (isFilePath(typed) ? typed.split('\n').filter(isFilePath) : []);

/** What a system takes for a way to a file, with an ending or without: begun at the root, a drive, a home or a folder above. */
const way = /^(?:[/\\~]|[A-Za-z]:[\\/]|\.{1,2}[\\/]|file:)/i;

/** Everything in a text that a file field may take for a path, a line each: more than is meant as one. */
export const waysIn = (typed: string): string[] =>
  typed
    .split(/[\n\r]/)
    .map((line) => line.trim())
    .filter((line) => way.test(line));

/** Everything that a drill types and that may be the path of a file, each once. */
export function waysTyped({ lines }: Drill): string[] {
  const typed = (one: Statement): string[] =>
    one.do === 'when' ? typed(one.then) : one.do === 'type' && typeof one.text === 'string' ? waysIn(one.text) : [];
  return [...new Set(lines.flatMap(typed))];
}

/** The full paths of files that a drill types, each once. */
export function filesTyped({ lines }: Drill): string[] {
  const typed = (one: Statement): string[] =>
    one.do === 'when' ? typed(one.then) : one.do === 'type' && typeof one.text === 'string' ? pathsIn(one.text) : [];
  return [...new Set(lines.flatMap(typed))];
}
