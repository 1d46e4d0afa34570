/**
 * Whether a request is one that a pattern names. A pattern is the request’s key as the evidence tells it
 * (`GET /api/fare/#`), in which `*` stands for anything.
 * Takes time in proportion to the two texts.
 */
export function matchesRequest(pattern: string, key: string): boolean {
  const parts = pattern.split('*');
  if (parts.length === 1) return pattern === key;
  const first = parts[0]!;
  const last = parts.at(-1)!;
  if (key.length < first.length + last.length || !key.startsWith(first) || !key.endsWith(last)) return false;
  let at = first.length;
  const end = key.length - last.length;
  for (const part of parts.slice(1, -1)) {
    const found = key.indexOf(part, at);
    if (found < 0 || found + part.length > end) return false;
    at = found + part.length;
  }
  return true;
}
