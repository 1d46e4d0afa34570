/**
 * A table as CSV after RFC 4180. A cell that a spreadsheet would take for a formula gets an apostrophe
 * before it, since names and messages come from anywhere.
 */
export function writeCsv(head: readonly string[], rows: Iterable<readonly (string | number | null)[]>): string {
  const cell = (value: string | number | null): string => {
    if (value === null) return '';
    if (typeof value === 'number') return String(value);
    const safe = /^[=+\-@\t\r]/.test(value) ? `'${value}` : value;
    return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  let out = `${head.map(cell).join(',')}\r\n`;
  for (const row of rows) out += `${row.map(cell).join(',')}\r\n`;
  return out;
}
