/** Of a message only so much is read; all of it is kept and shown. Whoever fails says why within a page. */
const mostRead = { text: 16_000, line: 2000 };

/** The part of a text that is looked through: no longer than a page, no line longer than anybody reads. */
export function legible(text: string): string {
  const page = text.length > mostRead.text ? text.slice(0, mostRead.text) : text;
  return page
    .split('\n')
    .map((line) => (line.length > mostRead.line ? line.slice(0, mostRead.line) : line))
    .join('\n');
}
