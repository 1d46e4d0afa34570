import type { Commands } from './command.ts';
import { ClassicError, invalid } from './classic-error.ts';
import type { ClassicSession } from './session.ts';

interface BidiCookie {
  name: string;
  value: { type: 'string' | 'base64'; value: string };
  domain: string;
  path: string;
  httpOnly: boolean;
  secure: boolean;
  sameSite: string;
  expiry?: number;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

const toClassic = (cookie: BidiCookie): object => ({
  name: cookie.name,
  value: cookie.value.type === 'string' ? cookie.value.value : Buffer.from(cookie.value.value, 'base64').toString(),
  domain: cookie.domain,
  path: cookie.path,
  httpOnly: cookie.httpOnly,
  secure: cookie.secure,
  ...(cookie.expiry === undefined ? {} : { expiry: cookie.expiry }),
  sameSite: cookie.sameSite === 'none' || cookie.sameSite === 'default' ? 'None' : capital(cookie.sameSite),
});

const matches = ({ domain, path, secure }: BidiCookie, { hostname, pathname, protocol }: URL): boolean => {
  const bare = domain.replace(/^\./, '');
  const hosts = hostname === bare || (domain.startsWith('.') && hostname.endsWith(`.${bare}`));
  const within = path === '/' || pathname === path || pathname.startsWith(path.endsWith('/') ? path : `${path}/`);
  return hosts && within && (!secure || protocol === 'https:' || hostname === 'localhost' || hostname === '127.0.0.1');
};

async function address(session: ClassicSession): Promise<URL> {
  await session.top();
  const [context] = await session.tree(session.frame);
  return new URL(context?.url ?? 'about:blank');
}

const partition = (session: ClassicSession): object => ({ type: 'context', context: session.frame });

async function cookies(session: ClassicSession): Promise<BidiCookie[]> {
  const here = await address(session);
  const told = await session.send<{ cookies: BidiCookie[] }>('storage.getCookies', { partition: partition(session) });
  return told.cookies.filter((one) => matches(one, here));
}

async function remove(session: ClassicSession, wanted: (cookie: BidiCookie) => boolean): Promise<null> {
  for (const { name, domain, path } of (await cookies(session)).filter(wanted))
    await session.send('storage.deleteCookies', { filter: { name, domain, path }, partition: partition(session) });
  return null;
}

/** Cookies of the document that is looked at. */
export const cookieCommands: Commands = {
  'get cookies': async (session) => (await cookies(session)).map(toClassic),
  'get cookie': async (session, { key }) => {
    const found = (await cookies(session)).find(({ name }) => name === key);
    if (!found) throw new ClassicError('no such cookie', `there is no cookie of the name ${key}`);
    return toClassic(found);
  },
  'add cookie': async (session, { body }) => {
    const told = body.cookie as Record<string, unknown> | undefined;
    if (!told || typeof told !== 'object') throw invalid('"cookie" is missing');
    const { name, value, domain, path, httpOnly, secure, expiry, sameSite } = told;
    if (typeof name !== 'string' || typeof value !== 'string') throw invalid('a cookie needs a name and a value');
    if (expiry !== undefined && !(Number.isSafeInteger(expiry) && (expiry as number) >= 0))
      throw invalid('"expiry" must be a whole number of seconds');
    if (sameSite !== undefined && !/^(?:None|Lax|Strict)$/.test(typeof sameSite === 'string' ? sameSite : ''))
      throw invalid('"sameSite" must be None, Lax or Strict');
    const here = await address(session);
    if (!/^https?:$/.test(here.protocol))
      throw new ClassicError('invalid cookie domain', 'cookies can be set on pages of http and https only');
    if (typeof domain === 'string' && !`.${here.hostname}`.endsWith(`.${domain.replace(/^\./, '')}`))
      throw new ClassicError('invalid cookie domain', `${domain} is not the domain of ${here.hostname}`);
    await session
      .send('storage.setCookie', {
        partition: partition(session),
        cookie: {
          name,
          value: { type: 'string', value },
          domain: typeof domain === 'string' ? domain : here.hostname,
          path: typeof path === 'string' ? path : '/',
          ...(typeof httpOnly === 'boolean' ? { httpOnly } : {}),
          ...(typeof secure === 'boolean' ? { secure } : {}),
          ...(expiry === undefined ? {} : { expiry }),
          ...(typeof sameSite === 'string' ? { sameSite: sameSite.toLowerCase() } : {}),
        },
      })
      .catch((error: Error) => {
        throw new ClassicError('unable to set cookie', error.message);
      });
    return null;
  },
  'delete cookie': (session, { key }) => remove(session, ({ name }) => name === key),
  'delete cookies': (session) => remove(session, () => true),
};
