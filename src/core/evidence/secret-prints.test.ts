import { createHmac } from 'node:crypto';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { findingPrints, printsOf } from './secret-prints.ts';

const oneWay = (text: string): string => createHmac('sha256', 'key').update(text).digest('base64url');
const finder = (...secrets: string[]) =>
  findingPrints(
    secrets.flatMap((one) => printsOf(one, oneWay)),
    oneWay,
  );

describe('secrets that are known by their prints', () => {
  const secret = 'tide & table "7"';
  it.each([
    ['plain', `typed ${secret} here`],
    ['in JSON', JSON.stringify({ a: secret })],
    ['in an address', `http://ferry.test/?q=${encodeURIComponent(secret)}`],
    ['in a form', `q=${encodeURIComponent(secret).replaceAll('%20', '+')}`],
    ['in markup', '<p>tide &amp; table &quot;7&quot;</p>'],
    ['in base64', `Basic ${btoa(`user:${secret}`)}`],
  ])('are found %s', (_where, text) => {
    const out = finder(secret).replace(text, '«m»');
    expect(out).toContain('«m»');
    expect(out).not.toContain('table');
  });

  it('of two that begin alike the longer goes whole', () => {
    expect(finder('harbour-gate', 'harbour-gate-77').replace('a harbour-gate-77 b harbour-gate', '#')).toBe('a # b #');
  });

  it('of three letters are found as well', () => expect(finder('q7z').replace('xq7zq7', '#')).toBe('x#q7'));

  it('leave nothing of themselves, and any other text as it is', () => {
    fc.assert(
      fc.property(
        fc.string({ minLength: 5, maxLength: 30 }),
        fc.string({ maxLength: 40 }),
        fc.string({ maxLength: 40 }),
        (hidden, before, after) => {
          const text = `${before}${hidden}${after}`;
          expect(finder(hidden).replace(text, '')).not.toContain(hidden.repeat(2));
          expect(finder(hidden).replace(text, '\0').includes(hidden) && !before.includes(hidden)).toBe(false);
          if (!before.includes(hidden)) expect(finder(hidden).replace(before, '#')).toBe(before);
        },
      ),
    );
  });

  it('cannot be read: nothing of the secret stands in them', () => {
    const told = JSON.stringify(printsOf('lantern-of-the-pier', oneWay));
    expect(told).not.toMatch(/lantern|pier|bGFudGVy/);
  });
});
