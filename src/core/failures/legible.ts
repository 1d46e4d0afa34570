/** Of a message only so much is read; all of it is kept and shown. Whoever fails says why within a page. */
const mostRead = { text: 16_000, line: 2000 };

/** Colours of a terminal, also where what escapes them was lost on the way. */
const colours = /\u001b?\[\d{1,3}(?:;\d{1,3}){0,5}m/g;

/** The part of a text that is looked through: without colours, no longer than a page, no line longer than anybody reads. */
export function legible(text: string): string {
  const page = text.length > mostRead.text ? text.slice(0, mostRead.text) : text;
  return page
    .replaceAll(colours, '')
    .split('\n')
    .map((line) => (line.length > mostRead.line ? line.slice(0, mostRead.line) : line))
    .join('\n');
}
