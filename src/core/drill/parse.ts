import type { Drill, DrillError, Line, Statement } from './drill.ts';
import { Fault, Reader, type Names } from './reader.ts';
import { statements } from './statements.ts';
import { tokensOf } from './tokens.ts';

/** Larger drills are a mistake or an attack; a page of steps has some hundred lines. */
const mostLines = 5000;

/** Reads a drill. With faults, `drill` is undefined and every fault is told with its place and its mend. */
export function parseDrill(text: string): { drill?: Drill; errors: DrillError[] } {
  const errors: DrillError[] = [];
  const lines: Line[] = [];
  const names: Names = { elements: new Set(), values: new Set() };
  let title: string | undefined;
  const source = text.split(/\r?\n/);
  if (source.length > mostLines)
    return { errors: [{ line: mostLines, column: 1, message: `a drill has at most ${mostLines} lines` }] };
  source.forEach((content, i) => {
    const number = i + 1;
    const { tokens, end, error } = tokensOf(content, number);
    if (error) {
      errors.push(error);
      return;
    }
    const first = tokens[0];
    if (!first) return;
    const reader = new Reader(tokens.slice(1), end, names);
    try {
      if (first.value === 'drill' && first.kind === 'word') {
        title = reader.text('the title');
      } else {
        const statement =
          first.kind === 'word' && Object.hasOwn(statements, first.value) ? statements[first.value] : undefined;
        if (!statement)
          throw new Fault(
            first.column,
            `“${first.value}” is no statement; one of: ${Object.keys(statements).join(', ')}`,
          );
        const read = statement(reader);
        lines.push({ ...read, line: number });
        learn(names, read);
      }
      reader.done();
    } catch (fault) {
      if (!(fault instanceof Fault)) throw fault;
      errors.push({ line: number, column: fault.column, message: fault.message });
    }
  });
  if (errors.length === 0 && lines.length === 0)
    errors.push({ line: 1, column: 1, message: 'this drill does nothing yet; begin with: open "http://…"' });
  if (errors.length) return { errors };
  return { drill: { title: title ?? 'a drill', lines }, errors };
}

/** A name means what it was given last. */
function learn(names: Names, read: Statement): void {
  if (read.do === 'find') {
    names.elements.add(read.name);
    names.values.delete(read.name);
  } else if (read.do === 'draw' || read.do.startsWith('remember')) {
    const { name } = read as { name: string };
    names.values.add(name);
    names.elements.delete(name);
  }
}
