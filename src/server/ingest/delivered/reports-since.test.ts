import { mkdirSync, mkdtempSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { reportsSince } from './reports-since.ts';
import { readPart } from './spool.ts';

const folder = mkdtempSync(join(tmpdir(), 'iskel-reports-'));
const from = Date.now();
const write = (name: string, text: string, at = from): void => {
  writeFileSync(join(folder, name), text);
  utimesSync(join(folder, name), at / 1000, at / 1000);
};
beforeAll(() => {
  mkdirSync(join(folder, 'results', 'shots'), { recursive: true });
  write('results/junit.xml', '<testsuite/>', from + 500);
  write('results/old.xml', '<testsuite name="yesterday"/>', from - 86_400_000);
  write('results/shots/seat.png', 'png', from + 900);
  write('beside.tap', '1..0', from + 10);
  symlinkSync('/etc/passwd', join(folder, 'results', 'link.xml'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const taken = async (places: string[]): Promise<Record<string, string>> => {
  const { spool, files } = await reportsSince(folder, places, from);
  try {
    return Object.fromEntries(files.map(({ name, start, size }) => [name, readPart(spool.fd, start, size).toString()]));
  } finally {
    spool.close();
  }
};

it('takes what was written since, in folders too, with its names; nothing that lay there before, no links', async () => {
  expect(await taken(['results', 'beside.tap'])).toEqual({
    'results/junit.xml': '<testsuite/>',
    'results/shots/seat.png': 'png',
    'beside.tap': '1..0',
  });
});

it('is nothing where nothing was written', async () => {
  expect(await taken(['nowhere', 'results/old.xml'])).toEqual({});
});
