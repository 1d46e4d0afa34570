import fc from 'fast-check';
import { expect, it } from 'vitest';
import { deepest, isTooDeep } from './json-depth.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

it('counts brackets in each other, of both kinds', () => {
  expect(isTooDeep(bytes('['.repeat(deepest) + ']'.repeat(deepest)))).toBe(false);
  expect(isTooDeep(bytes('['.repeat(deepest + 1)))).toBe(true);
  expect(isTooDeep(bytes('{"a":'.repeat(10_000)))).toBe(true);
});

it('does not count what stands in texts', () => {
  expect(isTooDeep(bytes(`"${'['.repeat(1000)}"`))).toBe(false);
  expect(isTooDeep(bytes(`"\\"${'['.repeat(1000)}"`))).toBe(false);
  expect(isTooDeep(bytes(`"\\\\"${'['.repeat(1000)}`))).toBe(true);
});

it('finds no honest value too deep', () => {
  fc.assert(fc.property(fc.json({ maxDepth: 8 }), (text) => !isTooDeep(bytes(text))));
});
