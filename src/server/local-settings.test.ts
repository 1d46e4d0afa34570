import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { noLocalSettings, readLocalSettings, secretsIn } from './local-settings.ts';

const folder = mkdtempSync(join(tmpdir(), 'iskel-settings-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const read = (told: unknown): ReturnType<typeof readLocalSettings> => {
  writeFileSync(join(folder, 'iskel.settings.json'), typeof told === 'string' ? told : JSON.stringify(told));
  return readLocalSettings(folder);
};

it('a test command has all it needs, its folder taken from the file', () => {
  const { commands } = read({
    commands: [{ name: 'ferry tests', program: 'npm', args: ['run', 'e2e'], folder: 'ferry' }],
  });
  expect(commands).toEqual([
    {
      name: 'ferry tests',
      program: 'npm',
      args: ['run', 'e2e'],
      folder: join(folder, 'ferry'),
      environment: {},
      reports: [],
      minutes: 30,
    },
  ]);
});

it('every fault is told at once, each with its place', () => {
  const faulty = {
    commands: [
      { name: 'drills', program: 'npm', folder: '.' },
      { name: 'a', program: 'npm', folder: '.', minutes: 0, environment: { 'B C': '1' } },
      { name: 'a', folder: '.' },
    ],
    places: [{ name: 'chromium', address: 'ftp://x' }],
  };
  expect(() => read(faulty)).toThrow(/faults; mend it/);
  for (const place of [
    'commands[0].name',
    'commands[1].minutes',
    'commands[1].environment.B C',
    'commands[2].program',
    'commands[2]" contains a duplicate',
    'places[0].name',
    'places[0].address',
  ])
    expect(() => read(faulty)).toThrow(place);
  expect(() => read('{ not json')).toThrow(/is not readable as JSON/);
});

it('none is none, and one that is named must be there', () => {
  expect(readLocalSettings(join(folder, 'empty'))).toEqual(noLocalSettings);
  expect(() => readLocalSettings(folder, join(folder, 'gone.json'))).toThrow(/cannot be read \(ENOENT\)/);
});

it('says which values of a command’s environment are read nowhere', () => {
  const environment = {
    SHOP_DB: 'postgres://app:pier9@db/ferry',
    API_KEY: 'k-1234',
    NODE_ENV: 'production',
    CI: 'true',
    PORT: '4870',
    CONFIG: './config/ci.json',
    BASE: 'http://127.0.0.1:4871/shop',
    SEED: 'Iskele4821',
  };
  expect(secretsIn(environment)).toEqual(['postgres://app:pier9@db/ferry', 'k-1234', 'Iskele4821']);
});
