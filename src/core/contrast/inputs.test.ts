import { describe, expect, it } from 'vitest';
import { maskMark } from '../evidence/masking.ts';
import { contrast } from './contrast.ts';
import { sketch, step } from './samples.ts';

let count = 0;
const typed = (input: string) => sketch(`s${++count}`, [step('open'), step('type #who', { input }), step('press #go')]);
const told = (failing: string[], passing: string[]): string[] =>
  contrast(failing.map(typed), passing.map(typed))
    .differences.filter(({ kind, strong }) => kind === 'input' && strong)
    .map(({ summary, failing: [n, of] }) => `${summary}: ${n} of ${of}`);

describe('data that is made up anew for every attempt', () => {
  const names = ['Ada Kaya', 'Mert Demir', 'Selin Ak', 'Can Polat', 'Ece Tan'];

  it('parts by a character that only failing attempts were given', () => {
    const odd = ["Ines O'Rourke", "Siobhan O'Neill", "Tara O'Dea", "Sean D'Arcy"];
    expect(told(odd, names)).toEqual(["“type #who” was given a text with “'”: 4 of 4"]);
    expect(told(odd, [...names, "Una O'Brien", "Ian O'Hara", "Zoe O'Shea"])).toEqual([]);
  });

  it('parts by numbers beyond those of passing attempts', () => {
    expect(told(['11', '12', '14', '19'], ['2', '5', '6', '3', '4'])).toEqual([
      '“type #who” was given a number outside of 2 to 6: 4 of 4',
    ]);
    expect(told(['3', '12', '4', '5'], ['2', '5', '6', '3', '4'])).toEqual([]);
  });

  it('is not known where it was masked', () => {
    expect(told([maskMark, maskMark, maskMark, maskMark], names)).toEqual([]);
    expect(told([maskMark, maskMark, maskMark, maskMark], ['Ada', 'Ada', 'Ada', 'Ada'])).toEqual([]);
  });
});
