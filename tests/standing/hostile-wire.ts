import { connect, type Socket } from 'node:net';
import { readFileSync } from 'node:fs';
import { script } from '../wire-script.ts';

/** Requests that nobody honest sends, made from honest ones by a seed: the same seed sends the same. */

export type Random = () => number;

const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

interface Honest {
  method: string;
  path: string;
  type?: string;
  body?: unknown;
  /** Bytes in place of a JSON body. */
  raw?: Buffer;
  upgrade?: boolean;
}

const attempt = 'a-0123456789ab';
const bodies: Record<string, unknown> = {
  'post /api/attempts/{id}/events': undefined,
  'post /api/attempts/{id}/outcome': { status: 'failed', message: 'late', stack: 'at a.ts:1', durationMs: 12 },
  'post /api/families/{id}/decisions': {
    kind: 'note',
    text: 'seen',
    cause: 'slow-response',
    state: 'open',
    owner: 'x',
  },
  'post /api/families/{id}/join': { with: 'f-1' },
  'post /api/families/{id}/split': { fingerprint: 'x', attempts: ['a-1'] },
  'post /api/drills': { text: 'drill "x"\nopen "http://127.0.0.1/"\n' },
  'put /api/drills/{id}': { text: 'drill "y"\n' },
  'post /api/drills/check': { text: 'drill "x"\npress "a"\n' },
  'post /api/series': { drillId: 'd-1', engine: 'chromium', trials: 1, stressors: [] },
  'post /api/attempts': {
    run: 'hostile',
    test: { suite: 's', title: 't', file: 'f.ts' },
    number: 1,
    environment: { browser: 'b', version: '1', width: 10, height: 10 },
    startedAt: 1_795_428_000_000,
    tags: ['a'],
    labels: { a: 'b' },
    secrets: ['lantern-9'],
  },
  'post /api/files/{id}/place': { attemptId: attempt, aside: true },
  'post /api/files/{id}/offset': { offsetMs: 12 },
  'put /api/rules': { frames: { own: [], library: [] }, masks: [] },
};

/** Every route of the API and every command of the protocol, as an honest client sends it. */
export function honestRequests(sessions: readonly string[], site: string): Honest[] {
  const { paths } = JSON.parse(readFileSync('docs/openapi.json', 'utf8')) as { paths: Record<string, object> };
  const api = Object.entries(paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method): Honest => {
      const filled = path.replace('{name}', 'ab'.repeat(32)).replace('{id}', attempt);
      const body = bodies[`${method} ${path}`];
      if (path === '/api/intake' && method === 'post') return { method: 'POST', path, ...multipart() };
      if (path.endsWith('/events') && method === 'post')
        return { method: 'POST', path: filled, type: 'application/x-ndjson', raw: Buffer.from('{"id":"e1","lane":"note","at":1,"data":{"label":"x"}}\n{"id":') };
      if (path.endsWith('/blobs/{name}') && method === 'put')
        return { method: 'PUT', path: `${filled}?at=5`, type: 'text/plain', raw: Buffer.from('a line\n') };
      return { method: method.toUpperCase(), path: filled, ...(body === undefined ? {} : { body }) };
    }),
  );
  const wire = sessions.flatMap((session) =>
    script(site)
      // What ends the session, or stands still for seconds, is not what is tried here.
      .filter(({ method, path }) => !(method === 'DELETE' && path === '/window') && !/async|print|timeouts/.test(path))
      .map(({ method, path, body }): Honest => ({ method, path: `/wd/session/${session}${path}`, body })),
  );
  const more: Honest[] = [
    { method: 'GET', path: '/wd/status' },
    { method: 'GET', path: '/' },
    { method: 'GET', path: '/runs/r-1?level=3' },
    { method: 'GET', path: '/assets/none.js' },
    { method: 'POST', path: '/wd/session', body: { capabilities: { alwaysMatch: { browserName: 'nonesuch', 'goog:chromeOptions': { args: ['--headless'] }, 'iskel:attempt': { run: 'x', number: 3, tags: ['t'], labels: { a: 'b' }, secrets: ['abc'] } } } } },
    { method: 'GET', path: `/wd/session/${sessions[0] ?? 'x'}`, upgrade: true },
    { method: 'GET', path: '/wd/session/none', upgrade: true },
    { method: 'GET', path: '/api/stream', upgrade: true },
    { method: 'POST', path: `/wd/session/${sessions[0] ?? 'x'}/iskel/note`, body: { kind: 'check', label: 'l', ok: true, expected: 'a', actual: 'b', source: 'a:1' } },
    { method: 'POST', path: `/wd/session/${sessions[0] ?? 'x'}/iskel/outcome`, body: { status: 'passed', message: '', stack: '' } },
  ];
  return [...api, ...wire, ...more, ...more];
} // prettier-ignore

function multipart(): { type: string; raw: Buffer } {
  const part = (name: string, file: string, text: string): string =>
    `--bnd\r\ncontent-disposition: form-data; name="${name}"${file ? `; filename="${file}"\r\ncontent-type: text/plain` : ''}\r\n\r\n${text}\r\n`;
  const text = [
    part('run', '', 'hostile'),
    part('labels', '', '{"a":"b"}'),
    part('files', 'notes.txt', 'a made-up note\n'.repeat(20)),
    part('files', 'run.log', '2026-11-23 10:00:00 INFO sailing l-1\n'.repeat(20)),
    '--bnd--\r\n',
  ].join('');
  return { type: 'multipart/form-data; boundary=bnd', raw: Buffer.from(text) };
}

const wrong: unknown[] = [
  null, true, 0, -1, 1.5, 1e300, -9e15, '', ' ', 'x', [], {}, [null], [[]], { toString: 1 }, { length: 3 }, { valueOf: null },
  'file:///etc/passwd', '%zz', '\u0000', '\ud800', 'a'.repeat(3000),
]; // prettier-ignore

/** Puts something of another type in place of one part of a JSON value. */
function withWrongPart(random: Random, value: unknown): unknown {
  if (value !== null && typeof value === 'object' && random() < 0.8) {
    const keys = Object.keys(value);
    if (keys.length) {
      const key = pick(random, keys);
      const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...value }) as Record<string, unknown>;
      copy[key] = withWrongPart(random, copy[key]);
      return copy;
    }
  }
  return pick(random, wrong);
}

const deep = (random: Random): string =>
  pick(random, [
    '['.repeat(10_000),
    '['.repeat(10_000) + ']'.repeat(10_000),
    '{"a":'.repeat(10_000),
    `{"actions":${'['.repeat(5000)}${']'.repeat(5000)}}`,
  ]);

const brokenText = (random: Random, text: string): string | Buffer =>
  pick(random, [
    text.slice(0, -1),
    `${text},`,
    text.replace(/\d/, '1e999'),
    text.replace(/"/, "'"),
    `\ufeff${text}`,
    '',
    'null',
    '"x"',
    '9'.repeat(400),
    deep(random),
    Buffer.from([0x7b, 0x22, 0xff, 0xfe, 0x22, 0x3a, 0x80, 0x7d]),
    text.replaceAll('a', '\\u0000'),
  ]);

const oddValues = ['x', 'null', '', '%E0%A4%A', '\xff\xfe\x80', '-1', '1e9', 'http://evil.test', 'http://127.0.0.1', 'a=b; iskel_token=%zz', '[::1', ':::', 'a b', '127.0.0.1:99999999', 'Basic ====', 'Bearer', 'chunked, chunked', 'gzip', 'bytes=9-1', 'multipart/form-data', 'multipart/form-data; boundary=', 'text/plain', 'x'.repeat(5000)]; // prettier-ignore
const oddHeaders = ['origin', 'host', 'cookie', 'authorization', 'sec-fetch-site', 'sec-fetch-mode', 'content-type', 'content-length', 'transfer-encoding', 'expect', 'range', 'connection', 'upgrade', 'x-y', 'sec-websocket-key', 'te', 'content-encoding', 'accept-encoding']; // prettier-ignore
const oddPaths: ((path: string) => string)[] = [
  (path) => path.replace('/', '//'),
  (path) => `${path}/`,
  (path) => path.replaceAll('/', '//'),
  (path) => path.toUpperCase(),
  (path) => path.replace(/\/(\w)/, (_, letter: string) => `/%${letter.charCodeAt(0).toString(16)}`),
  (path) => `${path}%zz`,
  (path) => `${path}%E0%A4%A`,
  (path) => `${path}%00`,
  (path) => `${path}/../../session`,
  (path) => `http://evil.test${path}`,
  (path) => path.slice(1),
  (path) => '*' + path,
  (path) => `${path}?${'a=b&'.repeat(900)}`,
  (path) => `${path}?limit=-1&from=1e999&until=x&after=,&lane=%2c,x&words=%00&before=1.5&passing=,,&failing=${attempt}`,
  (path) => path.replace(/[^/]+$/, '__proto__'),
  (path) => path.replace(/[^/]+$/, 'x'.repeat(9000)),
];

/** One hostile request: the bytes, and how they are sent. */
export interface Hostile {
  what: string;
  bytes: Buffer;
  send: 'whole' | 'cut' | 'reset' | 'trickled';
  /** Bytes after which a cut request ends. */
  until: number;
  /** Whether the answer is our API's, where nothing that a client sends may be our own failure. */
  api: boolean;
}

/** Makes the next hostile request out of honest ones. */
export function hostile(random: Random, honest: readonly Honest[], host: string): Hostile {
  const one = { ...pick(random, honest) };
  const headers: [string, string][] = [['host', host]];
  let body: Buffer = one.raw ?? (one.body === undefined ? Buffer.alloc(0) : Buffer.from(JSON.stringify(one.body)));
  let type = one.type ?? (one.body === undefined ? undefined : 'application/json');
  let send: Hostile['send'] = 'whole';
  let until = 0;
  const ways: string[] = [];
  const count = random() < 0.7 ? 1 : 2;
  for (let i = 0; i < count; i++) {
    const way = Math.floor(random() * 10);
    ways.push(String(way));
    switch (way) {
      case 0:
        headers.push([pick(random, oddHeaders), pick(random, oddValues)]);
        break;
      case 1:
        headers[0] = ['host', pick(random, oddValues)];
        break;
      case 2:
        one.path = pick(random, oddPaths)(one.path);
        break;
      case 3:
        one.method = pick(random, ['GET', 'POST', 'PUT', 'DELETE', 'PATCH', 'OPTIONS', 'HEAD', 'TRACE', 'FOO', 'CONNECT']);
        break;
      case 4:
        send = 'cut';
        until = random();
        break;
      case 5:
        send = 'reset';
        until = random() < 0.5 ? 1 : random();
        break;
      case 6:
        send = random() < 0.3 ? 'trickled' : send;
        break;
      case 7:
      case 8:
        if (one.body !== undefined) body = Buffer.from(JSON.stringify(withWrongPart(random, one.body)));
        else if (one.raw) body = Buffer.concat([body.subarray(0, Math.floor(random() * body.length)), Buffer.from(pick(random, oddValues), 'latin1'), body]);
        break;
      case 9: {
        const broken = brokenText(random, body.toString());
        body = Buffer.from(broken);
        type ??= 'application/json';
        break;
      }
    }
  } // prettier-ignore
  if (one.raw && type?.startsWith('multipart') && random() < 0.2)
    body = Buffer.concat([
      Buffer.from(`--bnd\r\ncontent-disposition: form-data; name="${'n'.repeat(20_000)}"\r\n\r\n`),
      body,
    ]);
  if (type) headers.push(['content-type', type]);
  if (one.upgrade)
    headers.push(
      ['connection', 'Upgrade'],
      ['upgrade', 'websocket'],
      ['sec-websocket-version', random() < 0.8 ? '13' : '99'],
      ['sec-websocket-key', random() < 0.8 ? 'dGhlIHNhbXBsZSBub25jZQ==' : 'no'],
    );
  else if (body.length || one.method === 'POST') headers.push(['content-length', String(body.length)]);
  const lines = headers.map(([name, value]) => `${name}: ${value}`).join('\r\n');
  const head = Buffer.from(`${one.method} ${one.path} HTTP/1.1\r\n${lines}\r\n\r\n`, 'latin1');
  const frames = one.upgrade ? [pick(random, oddFrames)] : [];
  const bytes = Buffer.concat([head, body, ...frames]);
  return {
    what: `${ways.join('+')} ${one.method} ${one.path.slice(0, 120)}`,
    bytes,
    send,
    // Every tenth byte has its turn.
    until:
      send === 'whole' || send === 'trickled'
        ? bytes.length
        : Math.max(1, Math.floor((until * bytes.length) / 10) * 10),
    api: one.path.startsWith('/api/'),
  };
}

/** Frames of a WebSocket that break its rules: not masked, of a length nobody has, of no kind, cut off. */
const oddFrames: Buffer[] = [
  Buffer.from([0x81, 0x02, 0x68, 0x69]),
  Buffer.from([0x81, 0xff, 0x7f, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0, 0, 0, 0]),
  Buffer.from([0x8f, 0x80, 0, 0, 0, 0]),
  Buffer.from([0xc1, 0x81, 1, 2, 3, 4, 0x60]),
  Buffer.from([0x81, 0x85, 0, 0, 0, 0, 0x6e, 0x75, 0x6c, 0x6c, 0x7b]),
  Buffer.from([0x88, 0x80, 0, 0, 0, 0]),
  Buffer.from([0x89, 0xfe]),
];

export interface Heard {
  status: number | undefined;
  text: string;
}

const patienceMs = 4000;

/** Sends one hostile request by a raw socket and hears what comes back, if anything. */
export function sendHostile(port: number, request: Hostile): Promise<Heard> {
  return new Promise((done) => {
    const socket: Socket = connect({ port, host: '127.0.0.1', allowHalfOpen: true });
    let text = '';
    const end = (): void => {
      clearTimeout(timer);
      socket.destroy();
      const status = /^HTTP\/1\.[01] (\d{3})/.exec(text)?.[1];
      done({ status: status ? Number(status) : undefined, text });
    };
    const timer = setTimeout(end, patienceMs);
    socket.on('error', end);
    socket.on('close', end);
    socket.on('data', (chunk) => {
      if (text.length < 20_000) text += chunk.toString('latin1');
      // The head tells the status; a stream of events never ends by itself.
      if (text.includes('\r\n\r\n') && request.send === 'whole') setTimeout(end, 2);
    });
    socket.on('connect', () => {
      if (request.send === 'trickled') return void trickle(socket, request.bytes);
      socket.write(request.bytes.subarray(0, request.until));
      if (request.send === 'cut') socket.end();
      if (request.send === 'reset')
        setTimeout(
          () => {
            socket.resetAndDestroy();
          },
          1 + (request.bytes.length % 7),
        );
    });
  });
}

async function trickle(socket: Socket, bytes: Buffer): Promise<void> {
  for (let at = 0; at < bytes.length && !socket.destroyed && at < 600; at += 7) {
    socket.write(bytes.subarray(at, at + 7));
    await new Promise((done) => setTimeout(done, 2));
  }
  if (bytes.length >= 600) socket.destroy();
}
