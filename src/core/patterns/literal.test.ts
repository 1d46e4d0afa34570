import fc from 'fast-check';
import { expect, it } from 'vitest';
import { literal } from './literal.ts';

it('fits its text and nothing else, whatever stands in it', () => {
  fc.assert(
    fc.property(fc.string(), fc.string(), (text, other) => {
      const pattern = new RegExp(`^${literal(text)}$`);
      expect(pattern.test(text)).toBe(true);
      expect(pattern.test(other)).toBe(other === text);
    }),
  );
  expect(literal('a.b*(c)')).toBe('a\\.b\\*\\(c\\)');
});
