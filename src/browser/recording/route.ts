import { WireRefused } from './wire-answer.ts';

/** Where a request below the recording endpoint leads. */
export type Route = { to: 'status' } | { to: 'new session' } | { to: 'session'; id: string; tail: string };

/** Letters that a path of the protocol is made of; a name given by the page may be escaped. */
const segment = /^[A-Za-z0-9._~!$&'()*+,;=:@%-]{1,2000}$/;
const mostSegments = 12;

/**
 * Reads the path of a request. Only what the specification knows leads on, written as it writes it: no doubled or
 * trailing slash, no other case, no escaped part leads anywhere else.
 * @param path what follows the base, with its query
 * @throws WireRefused in the words of the specification
 */
export function routeOf(method: string, path: string): Route {
  const plain = path.split('?', 1)[0]!;
  const unknown = (): WireRefused =>
    new WireRefused('unknown command', `unknown command: unknown command: ${plain.slice(1, 200)}`);
  const [lead, ...parts] = plain.split('/', mostSegments + 1);
  const wellFormed =
    lead === '' && parts.length < mostSegments && parts.every((part) => segment.test(part) && !/^\.{1,2}$/.test(part));
  if (!wellFormed) throw unknown();
  const [first, id, ...rest] = parts;
  if (first === 'status' && id === undefined) {
    if (method === 'GET') return { to: 'status' };
    throw new WireRefused('unknown method', `unknown method: ${method} status`);
  }
  if (first !== 'session') throw unknown();
  if (id === undefined) {
    if (method === 'POST') return { to: 'new session' };
    throw new WireRefused('unknown method', `unknown method: ${method} session`);
  }
  if (id.includes('%') || rest[0]?.includes('%')) throw unknown();
  return { to: 'session', id, tail: rest.map((part) => `/${part}`).join('') };
}
