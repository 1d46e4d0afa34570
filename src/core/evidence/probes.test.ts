import fc from 'fast-check';
import { expect, it } from 'vitest';
import { fewWords, probesOf } from './probes.ts';

const word = fc.string({ unit: fc.constantFrom('a', 'b', 'c', '-'), minLength: 1, maxLength: 6 });

it.each([5, fewWords + 40])('finds of %i words those that a plain search finds', (count) => {
  fc.assert(
    fc.property(
      fc.array(word, { minLength: count, maxLength: count }),
      fc.string({ unit: fc.constantFrom('a', 'b', 'c', '-', ' '), maxLength: 80 }),
      (words, text) => {
        const found = new Set(probesOf(words).in(text));
        words.forEach((one, i) => {
          // Short words may be told although they are not there: the closer look decides.
          if (one.length >= 3 || count <= fewWords) expect(found.has(i)).toBe(text.includes(one));
          else if (text.includes(one)) expect(found.has(i)).toBe(true);
        });
      },
    ),
  );
});
