import { createHash, createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { isLoopback, type Settings } from './settings.ts';

/** Why a request is not let in. */
export interface Refusal {
  status: 400 | 401 | 403 | 415;
  code: string;
  message: string;
}

/** What is looked at of a request; any bytes may stand in any of it. */
export type Asked = Pick<IncomingMessage, 'headers' | 'url' | 'method'>;

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();

/** A host as the header may give it: a name, an IPv4 or a bracketed IPv6 address, maybe a port. */
const hostShape = /^(\[[0-9a-f:.]{2,60}\]|[a-z0-9._-]{1,253})(?::\d{1,5})?$/i;

const refuse = (status: Refusal['status'], code: string, message: string): Refusal => ({ status, code, message });

const decoded = (text: string): string | undefined => {
  try {
    return decodeURIComponent(text);
  } catch {
    return undefined;
  }
};

/** The token a request carries: bearer, or the password of basic (so that it fits in a remote URL). */
function tokenOf({ headers }: Asked): string | undefined {
  const [scheme, content = ''] = (headers.authorization ?? '').split(' ', 2);
  if (scheme?.toLowerCase() === 'bearer') return content;
  if (scheme?.toLowerCase() === 'basic') return Buffer.from(content, 'base64').toString().split(':').slice(1).join(':');
  return undefined;
}

const fits = (told: string | undefined, token: string): boolean =>
  told !== undefined && timingSafeEqual(digest(told), digest(token));

/** Pages stay open to a browser that was let in once for so long, days. */
const longestOpenDays = 30;

/**
 * What a browser keeps once it was let in. It is sent to every port of this host, so it is not the token: it opens the
 * pages of this server only, ends by itself, and ends with the token it was made from.
 */
const cookieSignature = (token: string, port: number, until: number, once: string): string =>
  createHmac('sha256', token).update(`iskel pages ${port} ${until} ${once}`).digest('base64url');

function newCookie(token: string, port: number): string {
  const until = Date.now() + longestOpenDays * 86_400_000;
  const once = randomBytes(12).toString('base64url');
  const value = `${until}.${once}.${cookieSignature(token, port, until, once)}`;
  // Lax, so that an address pasted into a chat opens; what writes is kept from other sites' pages below.
  return `${cookieName(port)}=${value}; HttpOnly; SameSite=Lax; Path=/; Max-Age=${longestOpenDays * 86_400}`;
}

const cookieName = (port: number): string => `iskel_pages_${port}`;

/** Cookies of a host hold those of all its ports; ours is looked for by the port it was made for. */
function hasCookie({ headers }: Asked, token: string, port: number): boolean {
  const found = new RegExp(`(?:^|;\\s?)${cookieName(port)}=(\\d{1,15})\\.([\\w-]{16})\\.([\\w-]{43})(?:;|$)`).exec(
    headers.cookie ?? '',
  );
  if (!found || Number(found[1]) < Date.now()) return false;
  return fits(found[3], cookieSignature(token, port, Number(found[1]), found[2]!));
}

/** An address opened once with `?token=…`: where to go on without it, so that the token stays in no history. */
export interface TokenHandedOver {
  cookie: string;
  location: string;
}

/** Takes the token out of the address of a page or a reading call. Nothing when there is none, or a wrong one. */
export function tokenHandedOver(request: Asked, settings: Settings): TokenHandedOver | undefined {
  if (!settings.token || (request.method !== 'GET' && request.method !== 'HEAD')) return undefined;
  const [path = '/', query] = (request.url ?? '/').split('?', 2);
  if (!query || isWire(path)) return undefined;
  const asked = new URLSearchParams(query);
  if (!fits(asked.get('token') ?? undefined, settings.token)) return undefined;
  asked.delete('token');
  const rest = asked.toString();
  return {
    cookie: newCookie(settings.token, settings.port),
    // One slash: two would name another host.
    location: `/${path.replace(/^\/{1,100}/, '')}${rest ? `?${rest}` : ''}`,
  };
}

export const isWire = (path: string): boolean => path === '/wd' || path.startsWith('/wd/');

/**
 * Lets in what may come in. On a loopback address: only requests made to a loopback name. Everywhere: nothing that a
 * page of another origin sent, so that no web page can reach Iskel through the browser of the person who runs it; and
 * where a token is set, only who has it. Never throws, whatever stands in the request.
 */
export function refusalOf(request: Asked, settings: Settings): Refusal | undefined {
  const url = request.url ?? '';
  if (!url.startsWith('/') || decoded(url) === undefined)
    return refuse(400, 'wrong-address', 'this address cannot be read: it must begin with / and its escapes be UTF-8');
  const host = request.headers.host ?? '';
  const name = hostShape.exec(host)?.[1] ?? '';
  if (host !== '' && name === '')
    return refuse(400, 'wrong-host', 'the Host header holds no host; give a name or an address, maybe with a port');
  if (isLoopback(settings.host) && !isLoopback(name.toLowerCase()))
    return refuse(
      403,
      'foreign-host',
      `this Iskel answers to 127.0.0.1 and localhost only, not to “${name}”; set ISKEL_HOST and ISKEL_TOKEN to open it to others`,
    );
  return fromAnotherPage(request, host) ?? withoutToken(request, settings) ?? withAForm(request);
}

/** The path as whoever routes it reads it: its escapes say the same. */
const pathRead = (url: string): string => decoded(url.split(/[?#]/, 1)[0]!) ?? url;

/** Browsers say where a request comes from: in `Sec-Fetch-Site` where they know it, else in `Origin`. */
function fromAnotherPage({ headers, method, url = '/' }: Asked, host: string): Refusal | undefined {
  const site = headers['sec-fetch-site'];
  if (site === 'same-origin' || site === 'none') return undefined;
  if (site !== undefined) {
    // A link followed from elsewhere, a chat say, may open a page of ours in its own window; it writes nothing.
    const opens =
      (method === 'GET' || method === 'HEAD') &&
      headers['sec-fetch-mode'] === 'navigate' &&
      headers['sec-fetch-dest'] === 'document';
    if (opens && !/^\/+(?:api|wd)(?:\/|$)/.test(pathRead(url))) return undefined;
    return refuse(403, 'foreign-origin', 'pages of other sites may not call Iskel');
  }
  const { origin } = headers;
  if (origin === undefined || origin.toLowerCase() === `http://${host.toLowerCase()}`) return undefined;
  return refuse(403, 'foreign-origin', 'pages of other sites, and pages without an origin, may not call Iskel');
}

function withoutToken(request: Asked, settings: Settings): Refusal | undefined {
  const { token, port } = settings;
  if (!token || fits(tokenOf(request), token) || hasCookie(request, token, port)) return undefined;
  return refuse(
    401,
    'token-needed',
    'this Iskel needs its token: as “Authorization: Bearer …”, as the password of the address, or once, opening a page, as ?token=…',
  );
}

/** Types that a page of any site can send without asking first. */
const formTypes = new Set(['text/plain', 'application/x-www-form-urlencoded', 'multipart/form-data', '']);
/** JSON lines, of whatever type a reporter gives them; only pages are held to a type. */
const lines = /^\/api\/attempts\/[^/]{1,200}\/events$/;

/** Calls that write say what they send, by a type that pages of other sites cannot give. */
function withAForm({ headers, method = 'GET', url = '/' }: Asked): Refusal | undefined {
  const path = url.split('?', 1)[0]!;
  if (method !== 'POST' || isWire(path)) return undefined;
  const hasBody = headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0;
  const type = (headers['content-type'] ?? '').split(';', 1)[0]!.trim().toLowerCase();
  if (!hasBody || !formTypes.has(type)) return undefined;
  if (type === 'multipart/form-data' && path === '/api/intake') return undefined;
  if (headers.origin === undefined && headers['sec-fetch-site'] === undefined && lines.test(path)) return undefined;
  return refuse(
    415,
    'wrong-type',
    `“${type || 'no type'}” is not taken here; send JSON with content-type application/json, or files to /api/intake as multipart/form-data`,
  );
}
