import type { Draw } from './drill.ts';

const letters = 'abcdefghijklmnopqrstuvwxyz';
const syllables = ['de', 'niz', 'ka', 'ra', 'lo', 'dos', 'me', 'ri', 'su', 'na', 'te', 'vo', 'il', 'an'];
/** Names as people have them: with signs, with two parts, short, long. */
const names = ['Ada', 'Deniz', 'O’Rourke', 'Zoë', 'Jean-Luc', 'Li', 'María José', 'Łukasz', 'Ng', 'Ayşe Nur Yılmaz'];

/**
 * Made-up data of one kind.
 * @param random numbers from 0 up to, not including, 1
 */
export function drawn(from: Draw, random: () => number): string {
  const pick = <T>(list: ArrayLike<T>): T => list[Math.floor(random() * list.length)]!;
  const word = (): string => Array.from({ length: 2 + Math.floor(random() * 2) }, () => pick(syllables)).join('');
  switch (from.kind) {
    case 'word':
      return word();
    case 'name':
      return pick(names);
    case 'email':
      return `${word()}.${word()}@lodos.example`;
    case 'letters':
      return Array.from({ length: from.length }, () => pick(letters)).join('');
    case 'digits':
      return Array.from({ length: from.length }, () => pick('0123456789')).join('');
    case 'number':
      return String(from.from + Math.floor(random() * (from.to - from.from + 1)));
    case 'one of':
      return pick(from.texts);
  }
}
