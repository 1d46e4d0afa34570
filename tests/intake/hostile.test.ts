import { gzipSync } from 'node:zlib';
import { existsSync, mkdtempSync, readdirSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { IntakeResult } from '../../src/core/records.ts';
import { openDesk, type Desk } from './helpers.ts';

/** Whatever comes in, comes from anywhere. Each of these is refused or listed in words; nothing is run, followed or written outside. */
let desk: Desk;
beforeAll(() => (desk = openDesk()));
afterAll(() => desk.close());

const told = (result: IntakeResult): string =>
  [
    ...result.unmatched.map((one) => `${one.name}: ${one.why}`),
    ...result.problems.map((one) => `${one.name}: ${one.message}`),
  ].join('\n');
const report = (name: string, inner = ''): string =>
  `<testsuite name="s"><testcase name="${name}">${inner}</testcase></testsuite>`;
const good = { 'ok.xml': report('good') };
/** What lies beside the data folder, where only names that lead out of it could put anything. */
const beside = (home: string): string[] => readdirSync(join(home, '..'));

describe('XML', () => {
  it('entities do not grow and files are not read', async () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE z [<!ENTITY a "${'ha'.repeat(50)}">${Array.from({ length: 9 }, (_, i) => `<!ENTITY a${i} "${`&a${i ? i - 1 : ''};`.repeat(10)}">`).join('')}<!ENTITY f SYSTEM "file:///etc/passwd">]>${report('&a8;&f;')}`;
    const before = process.memoryUsage().rss;
    const result = await desk.take({ 'bomb.xml': bomb, ...good });
    expect(told(result)).toMatch(/bomb\.xml: .*entity/i);
    expect(process.memoryUsage().rss - before).toBeLessThan(150 * 1024 ** 2);
    expect(JSON.stringify(desk.store.attempts.ofRun(result.runId!))).not.toMatch(/root:|hahaha/);
  });
  it('broken, endless and wrongly declared ones are told', async () => {
    const result = await desk.take({
      'open.xml': '<testsuite name="s"><testcase name="a"/><testcase name="b"><failure>',
      'utf16.xml': Buffer.from(`\ufeff<?xml version="1.0" encoding="UTF-16"?>${report('yolcu ğüşı')}`, 'utf16le'),
      'latin.xml': Buffer.from(`<?xml version="1.0" encoding="ISO-8859-9"?>${report('yolcu çö')}`, 'latin1'),
      'lying.xml': `<?xml version="1.0" encoding="UTF-16"?>${report('says it is what it is not')}`,
      'soup.xml': Buffer.from([0x3c, 0x74, 0xff, 0xfe, 0x9c, 0x80]),
    });
    const titles = desk.store.attempts.ofRun(result.runId!).map((one) => one.test.title);
    expect(titles).toEqual(expect.arrayContaining(['a', 'yolcu ğüşı', 'yolcu çö', 'says it is what it is not']));
    expect(told(result)).toMatch(/open\.xml: .*“b”/);
    expect(told(result)).toMatch(/soup\.xml/);
  });
});

describe('archives', () => {
  it('bombs, paths that lead out and encrypted parts are left out, the rest is read', async () => {
    const big = new Uint8Array(300 * 1024 ** 2);
    const zip = zipSync({ 'ok.xml': strToU8(report('from the zip')), 'big.txt': [big, { level: 9 }] });
    const result = await desk.take({ 'bomb.zip': Buffer.from(zip) });
    expect(result.attempts).toBe(1);
    expect(told(result)).toMatch(/big\.txt: it grows more than 250 times/);
    const out = await desk.take({
      'out.zip': Buffer.from(
        zipSync({ 'a.xml': strToU8(report('before')), '../../escaped.xml': strToU8(report('escaped')) }),
      ),
    });
    expect(told(out)).toMatch(/leads out of the archive/);
    expect(existsSync(join(desk.home, '..', 'escaped.xml'))).toBe(false);
  });
  it('a gzip that never ends is stopped', async () => {
    const result = await desk.take({ 'zeros.txt.gz': gzipSync(Buffer.alloc(200 * 1024 ** 2)), ...good });
    expect(told(result)).toMatch(/zeros\.txt\.gz: it grows more than/);
  });
  it('links are not followed', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'iskel-links-'));
    symlinkSync('/etc/passwd', join(folder, 'passwd.txt'));
    writeFileSync(join(folder, 'r.xml'), report('beside a link'));
    const tar = spawnSync('tar', ['-cf', '-', '-C', folder, '.'], { maxBuffer: 1024 ** 3 }).stdout;
    const result = await desk.take({ 'links.tar': tar });
    expect(told(result)).toMatch(/passwd\.txt: it is a link/);
    expect(result.attempts).toBe(1);
    rmSync(folder, { recursive: true });
  });
  it('a hundred thousand parts are refused as a whole, quickly and in words', async () => {
    const parts = Object.fromEntries(Array.from({ length: 100_000 }, (_, i) => [`f${i}`, new Uint8Array(0)]));
    const result = await desk.take({ 'many.zip': Buffer.from(zipSync(parts, { level: 0 })), ...good });
    expect(told(result)).toMatch(/many\.zip: it says it holds \d+ files; more than 20000/);
    expect(result.attempts + result.unmatched.length).toBeLessThan(5);
  });
  it('archives in archives have a bottom', async () => {
    let inner = Buffer.from(zipSync({ 'r.xml': strToU8(report('deep')) }));
    for (let i = 0; i < 6; i++) inner = Buffer.from(zipSync({ [`n${i}.zip`]: inner }));
    expect(told(await desk.take({ 'dolls.zip': inner, ...good }))).toMatch(/more than 3 deep/);
  });
  it('one cut anywhere is told, never more', async () => {
    const zip = Buffer.from(zipSync({ 'r.xml': strToU8(report('x'.repeat(500))) }));
    for (const cut of [5, 30, 60, Math.floor(zip.length / 2), zip.length - 3]) {
      const result = await desk.take({ 'cut.zip': zip.subarray(0, cut), ...good });
      expect(told(result)).toMatch(/cut\.zip/);
    }
  });
});

describe('JSON, pictures, videos', () => {
  it('deep and foreign JSON is told', async () => {
    const result = await desk.take({
      'deep.har': `{"log":{"entries":[${'['.repeat(100_000)}${']'.repeat(100_000)}]}}`,
      'other.json': '{"weather":"fair"}',
      'broken.har': '{"log":{"entries":[',
      ...good,
    });
    expect(told(result)).toMatch(/other\.json: it is JSON of no kind we read/);
    expect(told(result)).toMatch(/broken\.har: it is not readable as JSON/);
    expect(told(result)).toMatch(/deep\.har/);
  });
  it('pictures that lie and videos that are cut are told', async () => {
    const png = await sharp({ create: { width: 20, height: 20, channels: 3, background: '#123' } })
      .png()
      .toBuffer();
    const liar = Buffer.from(png);
    liar.writeUInt32BE(15_000, 16);
    liar.writeUInt32BE(15_000, 20);
    const result = await desk.take({
      'liar.png': liar,
      'cut.webm': Buffer.from([0x1a, 0x45, 0xdf, 0xa3, 0x9f, 0x42]),
      'half.png': png.subarray(0, 20),
      ...good,
    });
    expect(told(result)).toMatch(/liar\.png: .*cannot be/);
    expect(told(result)).toMatch(/cut\.webm: the file holds no video/);
    expect(told(result)).toMatch(/half\.png/);
  });
});

it('names lead nowhere, and a delivery that fails leaves nothing', async () => {
  const before = beside(desk.home);
  const result = await desk.take(
    {
      '../../../etc/cron.d/x.xml': report('by path'),
      '/abs/olute.txt': 'no times here',
      'C:\\win\\dows.txt': 'nor here',
    },
    { run: 'names' },
  );
  const names = [
    ...desk.store.files.ofRun(result.runId!).map((file) => file.name),
    ...result.unmatched.map((one) => one.name),
  ];
  expect(names.join(' ')).not.toMatch(/\.\.|^\/| \/|C:/);
  expect(beside(desk.home)).toEqual(before);
  expect(before).toEqual(['data']);
});
