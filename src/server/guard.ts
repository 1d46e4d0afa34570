import { createHash, timingSafeEqual } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { isLoopback, type Settings } from './settings.ts';

/** Why a request is not let in. */
export interface Refusal {
  status: 401 | 403;
  code: string;
  message: string;
}

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
const hostOf = (value: string): string => value.replace(/:\d+$/, '');

/** The token a request carries: bearer, the password of basic (so that it fits in a remote URL), or our cookie. */
function tokenOf(request: IncomingMessage): string | undefined {
  const [scheme, content = ''] = (request.headers.authorization ?? '').split(' ');
  if (scheme?.toLowerCase() === 'bearer') return content;
  if (scheme?.toLowerCase() === 'basic') return Buffer.from(content, 'base64').toString().split(':').slice(1).join(':');
  const cookie = /(?:^|;\s*)iskel_token=([^;]+)/.exec(request.headers.cookie ?? '')?.[1];
  if (cookie) return decodeURIComponent(cookie);
  return new URL(request.url ?? '/', 'http://local').searchParams.get('token') ?? undefined;
}

/**
 * Lets in what may come in. On a loopback address: only requests made to a loopback name and not
 * from another site's page, so that no web page can reach Iskel through the browser of the person
 * who runs it. On any other address: only with the token.
 */
export function refusalOf(request: IncomingMessage, settings: Settings): Refusal | undefined {
  const host = hostOf(request.headers.host ?? '');
  const local = isLoopback(settings.host);
  if (local && !isLoopback(host)) {
    return {
      status: 403,
      code: 'foreign-host',
      message: `this Iskel answers to 127.0.0.1 and localhost only, not to “${host}”; set ISKEL_HOST and ISKEL_TOKEN to open it to others`,
    };
  }
  const origin = request.headers.origin;
  if (origin && origin !== 'null' && hostOf(new URL(origin).host) !== host) {
    return { status: 403, code: 'foreign-origin', message: 'pages of other sites may not call Iskel' };
  }
  if (origin === 'null')
    return { status: 403, code: 'foreign-origin', message: 'pages without an origin may not call Iskel' };
  if (!settings.token) return undefined;
  const told = tokenOf(request);
  if (told !== undefined && timingSafeEqual(digest(told), digest(settings.token))) return undefined;
  return {
    status: 401,
    code: 'token-needed',
    message:
      'this Iskel needs its token: as “Authorization: Bearer …”, as the password of the address, or once as ?token=…',
  };
}
