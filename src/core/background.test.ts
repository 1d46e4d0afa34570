import { afterEach, beforeEach, expect, it } from 'vitest';
import { asError, background, guarded, tellTroubles, type Trouble } from './background.ts';

const seen: Trouble[] = [];
let before: (trouble: Trouble) => void;
beforeEach(() => {
  seen.length = 0;
  before = tellTroubles((one) => void seen.push(one));
});
afterEach(() => void tellTroubles(before));
const turn = (): Promise<void> => new Promise((done) => setTimeout(done));

it('tells what a promise rejected with, named, with what it belonged to', async () => {
  background('sweeping', Promise.reject(new RangeError('no broom')), 'a-1');
  await turn();
  expect(seen).toEqual([{ what: 'sweeping', error: new RangeError('no broom'), about: 'a-1' }]);
});

it('tells what work threw at once, or later', async () => {
  background('at once', () => {
    throw new Error('one');
  });
  background('later', async () => {
    await turn();
    throw new Error('two');
  });
  await turn();
  await turn();
  expect(seen.map(({ what, error }) => `${what}: ${error.message}`)).toEqual(['at once: one', 'later: two']);
});

it('gives what guarded work gave, and nothing where it threw', () => {
  expect(guarded('counting', () => 3)).toBe(3);
  expect(
    guarded('counting', () => {
      throw new Error('lost count');
    }),
  ).toBeUndefined();
  expect(seen).toHaveLength(1);
});

it('is not brought down by what has no words, nor by a teller that fails', () => {
  const wordless = { toString: 1, valueOf: 2 };
  expect(asError(wordless)).toBeInstanceOf(Error);
  tellTroubles(() => {
    throw new Error('deaf');
  });
  expect(() => guarded('anything', () => JSON.parse('{'))).not.toThrow();
});
