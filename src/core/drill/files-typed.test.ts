import { expect, it } from 'vitest';
import { filesTyped, pathsIn } from './files-typed.ts';
import { parseDrill } from './parse.ts';

it('files that a drill types are known by their full paths, each once', () => {
  const { drill } = parseDrill(`type "/papers/scan.png" into css "#scan"
type "/papers/scan.png\\n/papers/back.png" into css "#scan"
type "see /papers/other.png" into css "#note"
type "Ada" into css "#name"
when css "#more" is there then type "C:\\\\papers\\\\list.csv" into css "#more"
`);
  expect(filesTyped(drill!)).toEqual(['/papers/scan.png', '/papers/back.png', 'C:\\papers\\list.csv']);
  expect(pathsIn('Ada')).toEqual([]);
});
