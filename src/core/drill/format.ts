import { parseDrill } from './parse.ts';
import { printStatement } from './print.ts';
import { tokensOf } from './tokens.ts';

/**
 * A drill's text with every line as it is printed; remarks and empty lines stay where they are. A text with faults comes
 * back as it was.
 */
export function formatDrill(text: string): string {
  const { drill, errors } = parseDrill(text);
  if (errors.length || !drill) return text;
  const statements = new Map(drill.lines.map((line) => [line.line, line]));
  const lines = text.split(/\r?\n/).map((line, i) => {
    const statement = statements.get(i + 1);
    const remark = remarkOf(line, i + 1);
    if (statement) return [printStatement(statement), remark].filter(Boolean).join('   ');
    const rest = line.trim();
    return rest.startsWith('drill')
      ? [`drill ${JSON.stringify(drill.title)}`, remark].filter(Boolean).join('   ')
      : rest;
  });
  return `${lines.join('\n').trimEnd()}\n`;
}

/** The remark at the end of a line that does something. */
function remarkOf(line: string, number: number): string {
  const rest = line.slice(tokensOf(line, number).end - 1);
  return rest.slice(rest.indexOf('#')).trim().startsWith('#') ? rest.slice(rest.indexOf('#')).trim() : '';
}
