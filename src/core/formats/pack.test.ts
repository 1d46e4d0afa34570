import { strToU8, zipSync } from 'fflate';
import { expect, it } from 'vitest';
import { css, line, step } from '../evidence/samples.ts';
import { readPack, writePack, type Pack } from './pack.ts';

const pack = (): Pack => ({
  attempt: {
    run: { name: 'nightly-1', startedAt: 1000, commit: 'abc' },
    test: { suite: 'holds', title: 'holds a seat' },
    number: 2,
    outcome: 'failed',
    environment: { browser: 'chromium', version: '156' },
    startedAt: 2000,
    durationMs: 50,
    message: 'm',
    stack: 's',
    labels: { tags: ['smoke'] },
  },
  events: [step(1, 2, { action: 'find', locator: css('#a') }), line(3, 'hello\nworld')],
  blobs: new Map([['a'.repeat(64), { bytes: new Uint8Array([1, 2, 3]), mime: 'image/png' }]]),
});

it('restores an attempt whole', () => {
  const whole = pack();
  expect(readPack(writePack(whole))).toEqual(whole);
});

it.each([
  ['a zip of something else', { 'readme.txt': strToU8('x') }, /no evidence pack/],
  ['another version', { 'pack.json': strToU8('{"iskel":9}'), 'events.jsonl': strToU8('') }, /version 9/],
  [
    'a pack without its test',
    { 'pack.json': strToU8('{"iskel":1,"attempt":{}}'), 'events.jsonl': strToU8('') },
    /its run or its test/,
  ],
])('refuses %s in words', (_what, files, words) => {
  expect(() => readPack(zipSync(files))).toThrow(words);
});

it('names the line of an event that is none', () => {
  const broken = zipSync({
    'pack.json': strToU8(JSON.stringify({ iskel: 1, attempt: pack().attempt })),
    'events.jsonl': strToU8(
      '{"id":"e1","lane":"step","kind":"command","at":1,"clock":"x","data":{"label":"x"}}\n{"lane":"nowhere"}',
    ),
  });
  expect(() => readPack(broken)).toThrow(/line 2/);
});

it('reads nothing outside its own names', () => {
  const wild = zipSync({
    'pack.json': strToU8(
      JSON.stringify({ iskel: 1, attempt: pack().attempt, blobs: { '../../etc/passwd': { mime: 'image/png' } } }),
    ),
    'events.jsonl': strToU8(''),
    '../../etc/passwd': strToU8('x'),
  });
  expect(readPack(wild).blobs.size).toBe(0);
});
