import type { DrillError } from './drill.ts';

export interface Token {
  kind: 'word' | 'text' | 'number' | 'sign';
  value: string;
  column: number;
}

const pattern = /\s+|#.*|"(?:[^"\\]|\\.)*"|-?\d+(?:\.\d+)?(?![\w-])|[A-Za-z_][\w-]*|[=+.,]/y;

/** Splits one line of a drill. A text is written as a JSON string, so that anything fits on a line. */
export function tokensOf(line: string, number: number): { tokens: Token[]; end: number; error?: DrillError } {
  const tokens: Token[] = [];
  /** The column after the last token. */
  let end = 1;
  let at = 0;
  while (at < line.length) {
    pattern.lastIndex = at;
    const found = pattern.exec(line);
    const column = at + 1;
    if (!found) {
      const message =
        line[at] === '"' ? 'this text has no closing quote; end it with "' : `“${line[at]}” has no meaning here`;
      return { tokens, end, error: { line: number, column, message } };
    }
    const value = found[0];
    at += value.length;
    if (/^[\s#]/.test(value)) continue;
    end = at + 1;
    if (value.startsWith('"')) {
      try {
        tokens.push({ kind: 'text', value: JSON.parse(value) as string, column });
      } catch {
        return {
          tokens,
          end,
          error: {
            line: number,
            column,
            message: 'a text is written like a JSON string: \\" \\\\ \\n \\u0000 are its escapes',
          },
        };
      }
    } else {
      const kind = /^-?\d/.test(value) ? 'number' : /^[=+.,]$/.test(value) ? 'sign' : 'word';
      tokens.push({ kind, value, column });
    }
  }
  return { tokens, end };
}
