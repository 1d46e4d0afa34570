import { describe, expect, it } from 'vitest';
import { duration, percent, plural, probability, seconds } from './words.ts';

describe('how things are written', () => {
  it.each([
    [5033, '5.033 s'],
    [0, '0.000 s'],
    [61.4, '0.061 s'],
  ])('a moment of %d ms', (ms, text) => {
    expect(seconds(ms)).toBe(text);
  });

  it.each([
    [0.4, '0 ms'],
    [610, '610 ms'],
    [999.4, '999 ms'],
    [1000, '1.0 s'],
    [61_000, '61.0 s'],
  ])('a length of %d ms', (ms, text) => {
    expect(duration(ms)).toBe(text);
  });

  it.each([
    [0, '0 %'],
    [0.025, '2.5 %'],
    [0.45, '45 %'],
    [1, '100 %'],
  ])('a share of %d', (share, text) => {
    expect(percent(share)).toBe(text);
  });

  it('counts agree with their word', () => {
    expect([plural(0, 'test'), plural(1, 'test'), plural(2, 'family', 'families')]).toEqual([
      '0 tests',
      '1 test',
      '2 families',
    ]);
  });

  it('a probability is never shown as none, nor as certain', () => {
    expect([0.942, 0.004, 0.9961].map(probability)).toEqual(['0.94', 'under 0.01', 'over 0.99']);
  });
});
