import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { createServer, type IncomingMessage } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { deliver } from './deliver.ts';
import { AttemptRecorder } from '../recording/recorder.ts';
import { boundSpool, readyIn, SpoolSink } from './spool.ts';

let spool: string;
beforeEach(() => (spool = mkdtempSync(join(tmpdir(), 'iskel-spool-test-'))));
afterEach(() => rmSync(spool, { recursive: true, force: true }));

const dayMs = 86_400_000;
/** An attempt that a browser that is gone left. */
function left(id: string, to = 'http://127.0.0.1:1', events = '', days = 0): string {
  const folder = join(spool, `b-999999-${id}`);
  const own = join(folder, `s-${id}`);
  mkdirSync(join(folder, 'blobs'), { recursive: true });
  mkdirSync(own);
  const attempt = {
    run: { name: 'r', startedAt: Date.now() },
    test: { suite: '', title: id },
    outcome: 'unreported',
    environment: { browser: 'chromium', version: '1' },
    startedAt: Date.now(),
    durationMs: 5,
    message: '',
    stack: '',
    labels: {},
  };
  writeFileSync(join(own, 'attempt.json'), JSON.stringify({ attempt, to, done: true }));
  writeFileSync(join(own, 'events.jsonl'), events);
  const at = (Date.now() - days * dayMs) / 1000;
  for (const path of [join(own, 'attempt.json'), join(own, 'events.jsonl'), own, join(folder, 'blobs'), folder])
    utimesSync(path, at, at);
  return own;
}

it('the token goes to the server it was made for, and to no other that a file names', async () => {
  const heard: (string | undefined)[] = [];
  const server = createServer((request: IncomingMessage, response) => {
    heard.push(request.headers.authorization);
    request.resume().on('end', () => response.setHeader('content-type', 'application/json').end('{}'));
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const address = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
  left('aa1', address);
  await deliver(spool, { token: 'a-token-of-the-harbour', tokenFor: 'http://127.0.0.1:4870' });
  left('aa2', address);
  await deliver(spool, { token: 'a-token-of-the-harbour', tokenFor: address });
  server.close();
  expect(heard).toEqual([undefined, 'Bearer a-token-of-the-harbour']);
});

it('reads events line by line, leaves out a broken one, and no name leads out of the folder of pictures', () => {
  const frame = (blob: string): string =>
    JSON.stringify({ id: blob, lane: 'screen', kind: 'frame', at: 1, clock: 'b', data: { blob, mime: 'image/png' } });
  const name = 'a'.repeat(64);
  const own = left(
    'aa3',
    undefined,
    `${frame(name)}\n{broken\n${frame('../../../etc/passwd')}\n${frame('b'.repeat(64))}`,
  );
  writeFileSync(join(own, '..', 'blobs', name), 'png');
  const [one] = readyIn(spool);
  expect([...one!.events()]).toHaveLength(3);
  expect([...one!.blobs()].map((blob) => [blob.name, blob.read().toString()])).toEqual([[name, 'png']]);
});

it('what cannot be taken in is set aside with the reason', () => {
  left('aa4');
  readyIn(spool)[0]!.setAside('its events make no sense');
  expect(readyIn(spool)).toEqual([]);
  const [name] = readdirSync(join(spool, 'set-aside'));
  expect(readFileSync(join(spool, 'set-aside', name!, 'why.txt'), 'utf8')).toBe('its events make no sense\n');
});

it('keeps within its bounds: what is too old goes, then the oldest of too much', () => {
  left('aa5', undefined, 'x'.repeat(1000), 100);
  left('aa6', undefined, 'x'.repeat(1000), 3);
  left('aa7', undefined, 'x'.repeat(1000), 1);
  expect(boundSpool(spool)).toEqual(['b-999999-aa5']);
  expect(boundSpool(spool, { age: 60 * dayMs, bytes: 2000 })).toEqual(['b-999999-aa6']);
  expect(readdirSync(spool)).toEqual(['b-999999-aa7']);
});

it('what becomes known as a secret later is masked in what was written before', async () => {
  const sink = new SpoolSink(spool, 'http://127.0.0.1:1');
  const recorder = new AttemptRecorder(sink, {}, { browser: 'chromium', version: '1' });
  const line = (text: string): void =>
    void recorder.add({
      lane: 'console',
      kind: 'line',
      at: Date.now(),
      clock: 'browser',
      data: { level: 'info', text },
    });
  line('her code is Iskele-4821, and https://ferry.test/?code=Iskele%20"4821"');
  line('all aboard');
  await new Promise((done) => setTimeout(done, 700));
  recorder.flush();
  recorder.observed([{ k: 'secret', t: Date.now(), v: 'Iskele-4821' }], 'w', 'r');
  await recorder.end();
  const [one] = readyIn(spool);
  const texts = [...one!.events()].flatMap((event) => (event.lane === 'console' ? [event.data.text] : []));
  expect(texts).toHaveLength(2);
  expect(texts.join()).not.toContain('Iskele-4821');
  expect(texts.join()).toContain('all aboard');
});
