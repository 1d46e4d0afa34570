import { expect, it } from 'vitest';
import { cookieTickets, withoutCookieValues } from './cookies.ts';

it('tickets in cookies are known by how they look; settings, words and dates are none', () => {
  expect(cookieTickets('sid=a1b2c3d4e5f6g7; theme=dark; day=2026-12-01T10:00; lang=tr-TR-long-words')).toEqual([
    'a1b2c3d4e5f6g7',
  ]);
  expect(cookieTickets('t="Zm9v4AAAABBBB"; Path=/; HttpOnly\nu=x%3D1abcdefghij')).toEqual([
    'Zm9v4AAAABBBB',
    'x%3D1abcdefghij',
    'x=1abcdefghij',
  ]);
  expect(cookieTickets('')).toEqual([]);
});

it('what a script answers of cookies keeps their names', () => {
  expect(withoutCookieValues('a=1; b=x=y;c=', '#')).toBe('a=#; b=#;c=#');
  expect(withoutCookieValues('no cookies', '#')).toBe('no cookies');
});
