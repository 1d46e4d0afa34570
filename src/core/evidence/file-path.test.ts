import { expect, it } from 'vitest';
import { fileName, isFilePath } from './file-path.ts';
import { stepLabel } from './labels.ts';
import { css, step } from './samples.ts';

it('knows the path of a file, and its name, from other things that are typed', () => {
  for (const path of ['/home/ada/scan.png', 'D:\\papers\\scan.png', '/papers/scan.png\n/papers/b.png']) {
    expect(isFilePath(path)).toBe(true);
    expect(fileName(path)).toBe('scan.png');
  }
  for (const text of ['Ada', '/', '/ferry', 'a/b.png', '12/24', 'see /papers/scan.png'])
    expect(isFilePath(text)).toBe(false);
});

it('is named in a step by the file alone', () => {
  const typed = (input: string) => step(0, 1, { action: 'type', locator: css('#scan'), input }).data;
  expect(stepLabel(typed('/home/ada/papers/scan.png'), 'Scan')).toBe('Choose file “scan.png” in “Scan”');
  expect(stepLabel(typed('Ada'), 'Name')).toBe('Type “Ada” in “Name”');
});
