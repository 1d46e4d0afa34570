import { closeSync, existsSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { describe, expect, it } from 'vitest';
import { classify } from './classify.ts';
import { cleanName, encodingOf, fromBytes, fromPart, texts, whole } from './source.ts';
import { Spool } from './spool.ts';

describe('names', () => {
  it.each([
    ['../../etc/passwd', 'etc/passwd'],
    ['/abs/olute.xml', 'abs/olute.xml'],
    ['C:\\win\\dows.txt', 'win/dows.txt'],
    ['./a//b/./c', 'a/b/c'],
    ['a\u0000b\nc', 'a�b�c'],
    ['..', 'unnamed'],
  ])('%s', (given, clean) => expect(cleanName(given)).toBe(clean));
});

describe('a spool', () => {
  it('holds bytes in a file that nobody can find by name', () => {
    const before = readdirSync(tmpdir()).filter((name) => name.startsWith('iskel-spool'));
    const spool = Spool.open();
    spool.write(Buffer.from('harbour '));
    spool.write(Buffer.from('gate'));
    expect(readdirSync(tmpdir()).filter((name) => name.startsWith('iskel-spool'))).toEqual(before);
    const source = fromPart(spool.fd, { name: 'x.txt', start: 0, size: spool.size });
    expect(source.read(0, 100).toString()).toBe('harbour gate');
    expect(source.read(8, 2).toString()).toBe('ga');
    expect(existsSync(`/proc/self/fd/${spool.fd}`)).toBe(true);
    closeSync(spool.fd);
  });
});

describe('when it was last written', () => {
  it.each([
    ['at the beginning of time', 0],
    ['when archives begin', Date.UTC(1980, 0)],
    ['where packages are all of one time', Date.UTC(1985, 9, 26, 8, 15)],
  ])('%s, is not known', (_, at) => expect(fromBytes('a.png', Buffer.alloc(1), at).modifiedAt).toBeUndefined());
  it('is told of our days', () =>
    expect(fromBytes('a.png', Buffer.alloc(1), Date.UTC(2026, 10, 23)).modifiedAt).toBe(Date.UTC(2026, 10, 23)));
});

describe('texts', () => {
  const decode = (bytes: Buffer): string => [...texts(fromBytes('x', bytes))].join('');
  it('are decoded by what they say they are written in', () => {
    expect(decode(Buffer.from('\ufeffyolcu ğ', 'utf16le'))).toBe('yolcu ğ');
    expect(decode(Buffer.from('<?xml version="1.0" encoding="ISO-8859-9"?>\xfd', 'latin1'))).toContain('ı');
    expect(decode(Buffer.concat([Buffer.from([0xef, 0xbb, 0xbf]), Buffer.from('ğ')]))).toBe('ğ');
    expect(encodingOf(Buffer.from('<?xml encoding="no-such"?>'))).toBe('utf-8');
  });
  it('do not break a letter that lies across two pieces', () => {
    const text = 'ğ'.repeat(700_001);
    expect(decode(Buffer.from(`a${text}`))).toBe(`a${text}`);
  });
  it('larger than is read whole are refused in words', () => {
    expect(() => whole(fromBytes('x', Buffer.alloc(2_000_000)), 1_000_000)).toThrow(/1\.9 MiB; .* up to 1\.0 MiB/);
  });
});

describe('what a file is', () => {
  it.each([
    ['<?xml version="1.0"?><testsuite name="a"/>', 'junit'],
    ['<?xml version="1.0"?><fares/>', 'xml'],
    ['<!doctype html><html></html>', 'markup'],
    ['TAP version 13\n1..1\nok 1', 'tap'],
    ['1..1\nok 1 - x', 'tap'],
    ['{"log":{"entries":[]}}', 'json'],
    ['{"a":1}\n{"a":2}', 'json-lines'],
    ['WEBVTT\n', 'cues'],
    ['2026-11-23T10:00:00Z hello', 'text'],
    ['', 'empty'],
    ['   \n', 'empty'],
    ['a\u0000b', 'unknown'],
  ] as const)('%j is %s', (content, kind) => expect(classify(fromBytes('x', Buffer.from(content)))).toBe(kind));
  it('by its first bytes when it is no text', () => {
    expect(classify(fromBytes('x', Buffer.from([0x50, 0x4b, 3, 4, 0])))).toBe('zip');
    expect(classify(fromBytes('x', Buffer.from([0x1f, 0x8b, 8])))).toBe('gzip');
    expect(classify(fromBytes('x', Buffer.from([0xff, 0xd8, 0xff, 0xe0])))).toBe('picture');
    expect(classify(fromBytes('x', Buffer.from([0x1a, 0x45, 0xdf, 0xa3, 0])))).toBe('video');
    expect(classify(fromBytes('x', Buffer.from([0xfe, 1, 0, 7, 0x99])))).toBe('unknown');
  });
});
