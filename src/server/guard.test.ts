import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { refusalOf, tokenHandedOver, type Asked } from './guard.ts';
import { isLoopback, readSettings } from './settings.ts';

const ask = (headers: Record<string, string>, url = '/api/runs', method = 'GET'): Asked => ({ headers, url, method });
const local = readSettings({});
const token = 'sixteen-characters-and-more';
const open = readSettings({ ISKEL_HOST: '0.0.0.0', ISKEL_TOKEN: token });

it.each([
  ['127.0.0.1', true],
  ['127.8.9.10', true],
  ['localhost', true],
  ['[::1]', true],
  ['0.0.0.0', false],
  ['10.0.0.1', false],
  ['localhost.evil.test', false],
  ['127.0.0.1.evil.test', false],
])('%s is loopback: %s', (host, expected) => {
  expect(isLoopback(host)).toBe(expected);
});

const host = '127.0.0.1:4870';
describe('on a loopback address', () => {
  it.each([
    [{ host }, undefined],
    [{ host: 'LOCALHOST:4870', origin: 'http://localhost:4870' }, undefined],
    [{ host: 'localhost:4870', origin: 'http://localhost:5173' }, 'foreign-origin'],
    [{ host: 'localhost:4870', origin: 'https://localhost:4870' }, 'foreign-origin'],
    [{ host: 'localhost:4870', origin: 'http://127.0.0.1:4870' }, 'foreign-origin'],
    [{ host: 'rebound.evil.test' }, 'foreign-host'],
    [{}, 'foreign-host'],
    [{ host: 'a b' }, 'wrong-host'],
    [{ host: '127.0.0.1:99999999' }, 'wrong-host'],
    [{ host, origin: 'https://evil.test' }, 'foreign-origin'],
    [{ host, origin: 'null' }, 'foreign-origin'],
    [{ host, origin: 'x' }, 'foreign-origin'],
    [{ host, origin: '' }, 'foreign-origin'],
    [{ host, 'sec-fetch-site': 'same-origin' }, undefined],
    [{ host, 'sec-fetch-site': 'none' }, undefined],
    [{ host, 'sec-fetch-site': 'same-site' }, 'foreign-origin'],
    [{ host, 'sec-fetch-site': 'cross-site' }, 'foreign-origin'],
  ])('%j', (headers, code) => {
    expect(refusalOf(ask(headers as Record<string, string>), local)?.code).toBe(code);
  });

  it('opens a page from a link elsewhere, but no call', () => {
    const link = { host, 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
    expect(refusalOf(ask(link, '/runs/r-1?level=2'), local)).toBeUndefined();
    expect(refusalOf(ask(link, '/api/runs'), local)?.code).toBe('foreign-origin');
    expect(refusalOf(ask(link, '/wd/status?x'), local)?.code).toBe('foreign-origin');
    expect(refusalOf(ask(link, '/runs/r-1', 'POST'), local)?.code).toBe('foreign-origin');
    expect(refusalOf(ask({ ...link, 'sec-fetch-dest': 'iframe' }, '/'), local)?.code).toBe('foreign-origin');
  });

  it.each([
    ['/api/attempts/%E0%A4%A', 400],
    ['/api/find?words=%zz', 400],
    ['/wd/session/%ff', 400],
    ['http://evil.test/', 400],
    ['*', 400],
    ['', 400],
  ])('refuses the address %s', (url, status) => {
    expect(refusalOf(ask({ host }, url), local)?.status).toBe(status);
  });

  it.each([
    ['text/plain', '/api/series', 415],
    ['application/x-www-form-urlencoded', '/api/series', 415],
    ['multipart/form-data; boundary=x', '/api/series', 415],
    ['', '/api/series', 415],
    ['application/json', '/api/series', undefined],
    ['Application/JSON; charset=utf-8', '/api/series', undefined],
    ['multipart/form-data; boundary=x', '/api/intake', undefined],
    ['text/plain', '/api/attempts/a-1/events', undefined],
    ['application/json', '/wd/session', undefined],
  ])('a call that writes with the type “%s” to %s', (type, url, status) => {
    const headers = { host, 'content-length': '2', ...(type ? { 'content-type': type } : {}) };
    expect(refusalOf(ask(headers, url, 'POST'), local)?.status).toBe(status);
  });
});

describe('with a token', () => {
  const away = 'iskel.team.test';
  it.each([
    ['none', {}, '/', 'token-needed'],
    ['a wrong one', { authorization: 'Bearer nope' }, '/', 'token-needed'],
    ['bearer', { authorization: `Bearer ${token}` }, '/', undefined],
    ['the password of a remote address', { authorization: `Basic ${btoa(`user:${token}`)}` }, '/wd/status', undefined],
    ['the token as a cookie', { cookie: `iskel_pages_4870=${token}` }, '/', 'token-needed'],
    ['a cookie that is no text', { cookie: 'iskel_pages_4870=%E0%A4%A' }, '/', 'token-needed'],
    ['in the address of a call', {}, `/api/runs?token=nope`, 'token-needed'],
  ])('%s', (_how, headers, url, code) => {
    expect(refusalOf(ask({ host: away, ...(headers as Record<string, string>) }, url), open)?.code).toBe(code);
  });

  it('turns the token of an address into a cookie, and leads on without it', () => {
    const over = (url: string, method = 'GET') => tokenHandedOver(ask({ host: away }, url, method), open);
    expect(over(`/runs/r-1?token=${token}&level=2`)).toMatchObject({ location: '/runs/r-1?level=2' });
    const { cookie } = over(`/?token=${token}`)!;
    expect(cookie).toMatch(/^iskel_pages_\d+=.*HttpOnly; SameSite=Lax/);
    expect(cookie).not.toContain(token);
    expect(over(`//evil.test/?token=${token}`)?.location).toBe('/evil.test/');
    expect(over('/?token=nope')).toBeUndefined();
    expect(over(`/wd/status?token=${token}`)).toBeUndefined();
    expect(over(`/api/series?token=${token}`, 'POST')).toBeUndefined();
  });
});

describe('the cookie of a browser that was let in', () => {
  const host = 'iskel.team.test';
  const cookie = tokenHandedOver(ask({ host }, `/?token=${token}`), open)!.cookie.split(';')[0]!;
  const code = (told: string, settings = open): string | undefined =>
    refusalOf(ask({ host, cookie: told }, '/'), settings)?.code;

  it('opens the pages', () => expect(code(`a=b; ${cookie}; c=d`)).toBeUndefined());
  it.each([
    ['of another token', cookie, { ...open, token: 'another-token-of-the-team' }],
    ['of another port', cookie, { ...open, port: open.port + 1 }],
    ['with another end', cookie.replace(/=\d+/, '=9999999999999'), open],
    ['that is over', cookie.replace(/=\d+/, '=1000000000000'), open],
    ['with another signature', `${cookie.slice(0, -4)}AAAA`, open],
  ])('%s opens nothing', (_what, told, settings) => expect(code(told, settings)).toBe('token-needed'));
});

describe('links from other sites', () => {
  const link = { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
  const code = (url: string): string | undefined =>
    refusalOf(ask({ host: '127.0.0.1:4870', ...link }, url), local)?.code;
  it.each(['/api/runs', '/%61pi/runs', '/a%70i', '//api/health', '/%77d/status', '/wd', '/api%2Fruns'])(
    'to %s are refused',
    (url) => expect(code(url)).toBe('foreign-origin'),
  );
  it.each(['/', '/runs/r-1?level=2', '/apiary', '/attempts/a-1#x'])('to %s are followed', (url) =>
    expect(code(url)).toBeUndefined(),
  );
});

it('answers anything, whatever stands in a request', () => {
  const bytes = fc.string({ unit: 'binary', maxLength: 60 });
  const headers = fc.dictionary(
    fc.constantFrom('host', 'origin', 'cookie', 'authorization', 'sec-fetch-site', 'content-type', 'content-length'),
    bytes,
  );
  fc.assert(
    fc.property(headers, bytes, fc.constantFrom('GET', 'POST', 'PUT', 'X'), (given, url, method) => {
      for (const settings of [local, open]) {
        const refusal = refusalOf(ask({ ...given }, url, method), settings);
        if (refusal) expect([400, 401, 403, 415]).toContain(refusal.status);
        tokenHandedOver(ask({ ...given }, url, method), settings);
      }
    }),
    { numRuns: 2000 },
  );
});
