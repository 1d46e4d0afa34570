import { createHash, randomBytes } from 'node:crypto';
import { deflateRawSync, gzipSync } from 'node:zlib';
import { strToU8, zipSync } from 'fflate';
import { seeded } from '../../src/core/stats/seeded.ts';

/** Deliveries of somebody who wants to do harm, made from a seed: packs, archives, pictures, videos, reports and logs. */
export type Delivery = Record<string, Uint8Array>;

const odd: unknown[] = [1e300, -1e300, -1, 0, 1.5, NaN, null, true, '', 'x', '\0', '\ud800', '__proto__', '../../etc/passwd', [], {}, [[]], { a: {} }, 'x'.repeat(100_000), '9'.repeat(400), '<script>alert(1)</script>', '\x1b]0;x\x07', '@everyone', '=cmd|x', 2 ** 53, '1970-01-01', '9999-12-31T23:59:59Z']; // prettier-ignore
const lanes = ['step', 'poll', 'element', 'page', 'network', 'body', 'console', 'screen', 'window', 'note', 'service', 'nowhere', '__proto__']; // prettier-ignore
const kinds = ['command', 'poll', 'changed', 'structure', 'exchange', 'body', 'line', 'exception', 'frame', 'video', 'opened', 'note', 'span', 'constructor']; // prettier-ignore

const crcTable = Int32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});
function chunk(name: string, data: Uint8Array): Buffer {
  const out = Buffer.alloc(12 + data.length);
  out.writeUInt32BE(data.length);
  out.write(name, 4, 'latin1');
  out.set(data, 8);
  let c = ~0;
  for (const byte of out.subarray(4, 8 + data.length)) c = crcTable[(c ^ byte) & 255]! ^ (c >>> 8);
  out.writeUInt32BE(~c >>> 0, 8 + data.length);
  return out;
}
/** A picture that says that it is larger than it is. */
function picture(width: number, height: number, depth: number, interlaced: number): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([depth, 6, 0, 0, interlaced], 8);
  const zeros = Buffer.concat([Buffer.from([0x78, 0xda]), deflateRawSync(Buffer.alloc(4_000_000), { level: 9 })]);
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  return Buffer.concat([signature, chunk('IHDR', head), chunk('IDAT', Buffer.concat([zeros, randomBytes(3000)])), chunk('IEND', Buffer.alloc(0))]); // prettier-ignore
}

export function hostileDelivery(seed: number): { name: string; files: Delivery } {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const chance = (share: number): boolean => random() < share;
  /** A value with some of its parts replaced by what nobody expects. */
  const spoil = (value: unknown, share: number): unknown => {
    if (chance(share)) return pick(odd);
    if (Array.isArray(value)) return value.map((one) => spoil(one, share));
    if (value && typeof value === 'object')
      return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, spoil(one, share)]));
    return value;
  };
  const name = `p${seed}`;
  const now = Date.now();
  const event = (i: number): unknown => ({
    id: `e${i}`,
    lane: pick(lanes),
    kind: pick(kinds),
    at: i,
    until: i + 5,
    clock: 'r',
    data: spoil({ label: 'x', command: 'get title', action: 'read', text: 'x', url: 'http://a.test/', method: 'GET', level: 'info', locator: { using: 'css selector', value: '#a' }, state: { count: 1, node: 1 }, blob: 'a'.repeat(64), mime: 'image/png', width: 10, height: 10, wait: 'x', saw: 'y', context: 'c', trace: 't', span: 's', exchange: 'e1', headers: { a: 'b' } }, 0.15), // prettier-ignore
  });
  const pack = (share: number): Uint8Array => {
    const blob = randomBytes(200);
    const hash = createHash('sha256').update(blob).digest('hex');
    const attempt = spoil({ run: { name, startedAt: now, commit: 'c', branch: 'b' }, test: { suite: 's', title: `t${seed}`, file: 'a.ts' }, number: 1, outcome: 'failed', environment: { browser: 'chromium', version: '1', width: 1280, height: 800 }, startedAt: now, durationMs: 10, message: 'm', stack: 'at x', labels: { tags: ['a'], labels: { a: 'b' }, zone: 0, told: { by: 'r', why: 'w', was: { suite: '', title: '' } } } }, share); // prettier-ignore
    const files: Record<string, Uint8Array> = {
      'pack.json': strToU8(JSON.stringify({ iskel: 1, attempt, blobs: spoil({ [hash]: { mime: 'image/png', size: 200 } }, share) })), // prettier-ignore
      'events.jsonl': strToU8(Array.from({ length: 30 }, (_, i) => JSON.stringify(chance(0.1) ? pick(odd) : event(i))).join('\n')), // prettier-ignore
      [`blobs/${hash}`]: chance(0.2) ? randomBytes(50) : blob,
    };
    if (chance(0.2)) files['../../escape.txt'] = strToU8('x');
    return zipSync(files);
  };
  const number = (): string => String(pick([1e300, -5, 'NaN', '1e309', 0.1, '', '9'.repeat(50)]));
  const kindsOf: [string, () => Delivery][] = [
    ['a pack', () => ({ 'a.iskel.zip': pack(0.06) })],
    ['a pack whose events only are odd', () => ({ 'a.iskel.zip': pack(0) })],
    ['a zip of many small parts', () => ({ 'b.zip': zipSync(Object.fromEntries(Array.from({ length: 64 }, (_, i) => [`d/${i}.txt`, new Uint8Array(1_000_000).fill(97)])), { level: 9 }) })], // prettier-ignore
    ['archives in archives', () => ({ 'n.zip': zipSync({ 'a.zip': zipSync({ 'b.zip': zipSync({ 'c.zip': zipSync({ 'd.txt': strToU8('x') }) }) }) }) })], // prettier-ignore
    ['a bomb', () => ({ 'x.log.gz': gzipSync(Buffer.alloc(200_000_000), { level: 9 }) })],
    ['a picture', () => ({ 'p.png': picture(pick([1, 16_384, 60_000, 4096]), pick([1, 16_384, 2]), pick([8, 16, 3]), pick([0, 1])) })], // prettier-ignore
    ['a report', () => ({ 'r.xml': strToU8(`<testsuites><testsuite name="${name}" timestamp="${String(pick(odd)).replace(/[<&"\0\x1b\ud800]/g, '')}">${Array.from({ length: 20 }, (_, i) => `<testcase classname="c" name="t${i}" time="${number()}" timestamp="${number()}"><failure message="m ${'y'.repeat(i * 100)}">${chance(0.2) ? '<![CDATA[' : ''}x</failure></testcase>`).join('')}`) })], // prettier-ignore
    ['entities', () => ({ 'e.xml': strToU8('<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;"><!ENTITY c SYSTEM "file:///etc/passwd">]><testsuite name="&b;"><testcase name="&c;"/></testsuite>') })], // prettier-ignore
    ['TAP', () => ({ 't.tap': strToU8(`TAP version 13\n1..${number()}\n${Array.from({ length: 50 }, (_, i) => `not ok ${i} - x # time=${number()}\n  ---\n  duration_ms: ${number()}\n  ...`).join('\n')}`) })], // prettier-ignore
    ['a HAR', () => ({ 'h.har': strToU8(JSON.stringify({ log: { entries: Array.from({ length: 20 }, () => spoil({ startedDateTime: new Date(now).toISOString(), time: 5, request: { method: 'GET', url: 'http://a.test/', headers: [] }, response: { status: 200, headers: [], content: { size: 1, mimeType: 'text/html' } }, timings: { wait: 1 } }, 0.2)) } })) })], // prettier-ignore
    ['spans', () => ({ 's.json': strToU8(JSON.stringify(spoil({ resourceSpans: [{ resource: { attributes: [] }, scopeSpans: [{ spans: [{ traceId: 'a'.repeat(32), spanId: 'b'.repeat(16), name: 'x', startTimeUnixNano: '1', endTimeUnixNano: '2', attributes: [{ key: 'a', value: { stringValue: 'b' } }] }] }] }] }, 0.1))) })], // prettier-ignore
    ['a log', () => ({ 'l.log': strToU8(`${new Date(now).toISOString()} ERROR ${'token=a '.repeat(200_000)}\n${'{"'.repeat(50_000)}`) })], // prettier-ignore
    ['a video', () => ({ 'v.webm': Buffer.concat([Buffer.from('1a45dfa3a3428681014', 'hex'), randomBytes(20_000)]), 'v.mp4': Buffer.concat([Buffer.from('0000001866747970', 'hex'), strToU8('isom'), randomBytes(20_000)]) })], // prettier-ignore
    ['anything', () => ({ [`${pick(['a', 'a/b', '../x', '\u202egpj'])}.${pick(['png', 'xml', 'zip', 'json', 'txt'])}`]: randomBytes(5000) })], // prettier-ignore
  ];
  const [kind, make] = kindsOf[seed % kindsOf.length]!;
  return { name: `${kind} (${seed})`, files: make() };
}
