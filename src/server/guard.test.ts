import type { IncomingMessage } from 'node:http';
import { describe, expect, it } from 'vitest';
import { refusalOf } from './guard.ts';
import { isLoopback, readSettings } from './settings.ts';

const ask = (headers: Record<string, string>, url = '/api/runs'): IncomingMessage =>
  ({ headers, url }) as unknown as IncomingMessage;
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

describe('on a loopback address', () => {
  it.each([
    [{ host: '127.0.0.1:4870' }, undefined],
    [{ host: 'localhost:4870', origin: 'http://localhost:4870' }, undefined],
    [{ host: 'localhost:4870', origin: 'http://localhost:5173' }, undefined],
    [{ host: 'rebound.evil.test' }, 'foreign-host'],
    [{}, 'foreign-host'],
    [{ host: '127.0.0.1:4870', origin: 'https://evil.test' }, 'foreign-origin'],
    [{ host: '127.0.0.1:4870', origin: 'null' }, 'foreign-origin'],
  ])('%j', (headers, code) => {
    expect(refusalOf(ask(headers as Record<string, string>), local)?.code).toBe(code);
  });
});

describe('with a token', () => {
  const host = 'iskel.team.test';
  it.each([
    ['none', {}, '/', 'token-needed'],
    ['a wrong one', { authorization: 'Bearer nope' }, '/', 'token-needed'],
    ['bearer', { authorization: `Bearer ${token}` }, '/', undefined],
    ['the password of a remote address', { authorization: `Basic ${btoa(`user:${token}`)}` }, '/wd/status', undefined],
    ['the cookie', { cookie: `a=b; iskel_token=${token}` }, '/', undefined],
    ['once in the address', {}, `/?token=${token}`, undefined],
  ])('%s', (_how, headers, url, code) => {
    expect(refusalOf(ask({ host, ...(headers as Record<string, string>) }, url), open)?.code).toBe(code);
  });
});
