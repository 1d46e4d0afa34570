import fc from 'fast-check';
import { expect, it } from 'vitest';
import { shown } from './print.ts';

it('a text from anywhere moves no cursor and names no window', () => {
  expect(shown('a\x1b]0;HACKED\x07b\x1b[2Jc\r\nd\te\u202ef\x9bg')).toBe('a]0;HACKEDb[2Jc\nd\tefg');

  fc.assert(
    fc.property(
      fc.string({ unit: 'binary' }),
      (text) => void expect(shown(text)).not.toMatch(/[\0-\x08\x0b-\x1f\x7f-\x9f]/),
    ),
  );
});
