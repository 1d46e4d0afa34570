import { isFilePath } from '../evidence/file-path.ts';
import type { Drill, Statement } from './drill.ts';

/** Paths in one text that is typed into a file field, a line each. */
export const pathsIn = (typed: string): string[] => (isFilePath(typed) ? typed.split('\n').filter(isFilePath) : []);

/** The full paths of files that a drill types, each once. */
export function filesTyped({ lines }: Drill): string[] {
  const typed = (one: Statement): string[] =>
    one.do === 'when' ? typed(one.then) : one.do === 'type' && typeof one.text === 'string' ? pathsIn(one.text) : [];
  return [...new Set(lines.flatMap(typed))];
}
