import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { parseDrill } from '../../core/drill/parse.ts';
import { Store } from '../store/store.ts';
import { GivenFiles, keepFilesOf, sweepGiven } from './drill-files.ts';

const home = mkdtempSync(join(tmpdir(), 'iskel-given-'));
const store = new Store(join(home, 'data'));
afterAll(() => {
  store.close();
  rmSync(home, { recursive: true });
});

it('files are kept as they were, and laid out by their names until the series is over', () => {
  const [one, other] = ['a', 'b'].map((folder) => join(home, folder, 'scan.png'));
  for (const path of [one!, other!]) {
    mkdirSync(join(path, '..'));
    writeFileSync(path, path);
  }
  const gone = join(home, 'gone.png');
  const folder = join(home, 'folder.png');
  mkdirSync(folder);
  const large = join(home, 'large.png');
  writeFileSync(large, Buffer.alloc(8 * 1024 ** 2 + 1));
  const text = [one, other, gone, folder, large]
    .map((path) => `type ${JSON.stringify(path)} into css "#scan"`)
    .join('\n');
  const { id } = store.drills.add(text, 'scans', null);
  const { drill } = parseDrill(text);
  keepFilesOf(store, id, drill!);
  writeFileSync(one!, 'changed since');
  rmSync(other!);
  keepFilesOf(store, id, drill!);
  expect(store.drillFiles.of(id).map(({ path }) => path)).toEqual([one, other]);

  const given = new GivenFiles(store, 's-1', id);
  const laid = given.instead(`${one}\n${other}\n${gone}`)!.split('\n');
  expect(laid.map((path) => basename(path))).toEqual(['scan.png', 'scan.png', 'gone.png']);
  expect(laid.slice(0, 2).map((path) => readFileSync(path, 'utf8'))).toEqual([one, other]);
  expect(laid[2]).toBe(gone);
  expect(given.instead(one!)).toBe(laid[0]);
  expect([given.instead(gone), given.instead('Ada')]).toEqual([undefined, undefined]);
  given.close();
  expect(existsSync(laid[0]!)).toBe(false);
  new GivenFiles(store, 's-2', id).instead(one!);
  sweepGiven(store.home);
  expect(existsSync(join(store.home, 'given'))).toBe(false);
});
