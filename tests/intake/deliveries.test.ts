import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { DeliveredFile, DeliveryView, IntakeResult } from '../../src/core/records.ts';
import { eventually, json, program, startServerProcess, type ServerProcess } from '../helpers.ts';

/** Deliveries that are sent file by file: broken off and gone on with, told file by file, and folders that are watched. */

let server: ServerProcess;
let folder: string;
const data = mkdtempSync(join(tmpdir(), 'iskel-sent-'));
beforeAll(async () => {
  server = await startServerProcess({ data });
  folder = mkdtempSync(join(tmpdir(), 'iskel-sent-files-'));
});
afterAll(async () => {
  await server.stop();
  for (const one of [folder, data]) rmSync(one, { recursive: true, force: true });
});

interface Begun {
  id: string;
  have: number[];
  view: DeliveryView;
  error?: { code: string; message: string };
}
const call = <T>(method: string, path: string, body?: unknown): Promise<{ status: number; body: T }> =>
  json<T>(method, `${server.address}/api/deliveries${path}`, body);
const put = async (path: string, bytes: Buffer): Promise<{ status: number; body: Begun & { have: number } }> => {
  const answer = await fetch(`${server.address}/api/deliveries${path}`, { method: 'PUT', body: new Uint8Array(bytes) });
  return { status: answer.status, body: (await answer.json()) as Begun & { have: number } };
};
const over = (id: string): Promise<DeliveryView> =>
  eventually(
    async () => (await call<DeliveryView>('GET', `/${id}`)).body,
    ({ state }) => state === 'done' || state === 'failed',
    30_000,
  );

const begin = Date.UTC(2026, 10, 23, 9);
const report = (suite: string): string =>
  `<testsuite name="${suite}"><testcase name="holds a seat to Ada Bay" time="4" timestamp="${new Date(begin).toISOString()}"><failure message="expected 3 seats"/></testcase><testcase name="prints the boarding pass" time="4" timestamp="${new Date(begin + 9000).toISOString()}"/></testsuite>`;
const log = (from: number, secret = ''): string =>
  Array.from(
    { length: 8 },
    (_, i) => `${new Date(from + i * 400).toISOString()} INFO desk answered ${secret}${i}`,
  ).join('\n');
const held = (where: string): Buffer =>
  Buffer.concat(
    readdirSync(where, { recursive: true, withFileTypes: true })
      .filter((one) => one.isFile())
      .map((one) => readFileSync(join(one.parentPath, one.name))),
  );

it('a delivery goes on where it was after its server was killed, and nothing of it can be read on the disk meanwhile', async () => {
  const files = [
    { name: 'out/report.xml', text: report('counter') },
    { name: 'out/desk.log', text: log(begin + 300, 'for lantern-88 ') },
    { name: 'out/odd.bin', text: '\0\u0001\0' },
  ].map(({ name, text }) => ({ name, bytes: Buffer.from(text) }));
  const announced = {
    key: randomBytes(32).toString('hex'),
    files: files.map(({ name, bytes }) => ({ name, size: bytes.length, modifiedAt: begin })),
    run: 'sent in parts',
    secrets: ['lantern-88'],
  };
  const first = (await call<Begun>('POST', '', announced)).body;
  expect(first.have).toEqual([0, 0, 0]);
  const { id } = first;
  const [, desk] = files;
  expect((await put(`/${id}/files/1?from=0`, desk!.bytes.subarray(0, 100))).body.have).toBe(100);
  expect((await put(`/${id}/files/0?from=0`, files[0]!.bytes)).body.have).toBe(files[0]!.bytes.length);
  // From elsewhere, too much, of no file, and taken too soon: said in words, and nothing is lost.
  expect(await put(`/${id}/files/1?from=0`, desk!.bytes)).toMatchObject({
    status: 409,
    body: { error: { message: expect.stringContaining('?from=100') as string } },
  });
  expect((await put(`/${id}/files/2?from=0`, Buffer.alloc(50))).status).toBe(400);
  expect((await put(`/${id}/files/9?from=0`, Buffer.alloc(5))).status).toBe(404);
  expect((await call<Begun>('POST', `/${id}/take`)).body.error!.message).toContain('send the rest first');
  const page = (await call<{ files: DeliveredFile[] }>('GET', `/${id}/files`)).body.files;
  expect(page.map(({ name, fate }) => [name, fate])).toEqual([
    ['out/report.xml', 'here'],
    ['out/desk.log', 'coming'],
    ['out/odd.bin', 'coming'],
  ]);
  const gone = new Promise((done) => server.child.once('exit', done));
  server.child.kill('SIGKILL');
  await gone;
  const left = held(data);
  for (const word of ['lantern-88', 'desk answered', 'holds a seat']) expect(left.includes(word)).toBe(false);

  server = await startServerProcess({ data });
  expect((await call<DeliveryView>('GET', `/${id}`)).body).toMatchObject({
    state: 'receiving',
    here: false,
    sent: 100 + files[0]!.bytes.length,
  });
  expect((await put(`/${id}/files/1?from=100`, desk!.bytes.subarray(100))).body.error!.code).toBe('not-open');
  // Another key does not open it.
  const stranger = (await call<Begun>('POST', '', { ...announced, key: randomBytes(32).toString('hex') })).body;
  expect(stranger).toMatchObject({ have: [0, 0, 0] });
  expect(stranger.id).not.toBe(id);
  expect((await call('DELETE', `/${stranger.id}`)).status).toBe(200);
  const again = (await call<Begun>('POST', '', announced)).body;
  expect(again).toMatchObject({ id, have: [files[0]!.bytes.length, 100, 0] });
  await put(`/${id}/files/1?from=100`, desk!.bytes.subarray(100));
  await put(`/${id}/files/2?from=0`, files[2]!.bytes);
  expect((await call('POST', `/${id}/take`)).status).toBe(202);
  const done = await over(id);
  expect(done).toMatchObject({ state: 'done', result: { attempts: 2, attached: 1 } });
  const fates = (await call<{ files: DeliveredFile[] }>('GET', `/${id}/files`)).body.files;
  expect(fates.map(({ name, fate }) => [name, fate])).toEqual([
    ['out/report.xml', 'report'],
    ['out/desk.log', 'placed'],
    ['out/odd.bin', 'left out'],
  ]);
  expect(fates[1]!.says).toContain('holds a seat to Ada Bay');
  const only = (await call<{ files: DeliveredFile[]; of: number }>('GET', `/${id}/files?fate=placed&limit=1`)).body;
  expect(only).toMatchObject({ of: 1, files: [{ attemptId: expect.stringMatching(/^a-/) as string }] });
  expect(readdirSync(join(data, 'deliveries'))).toEqual([]);
  expect(held(data).includes('lantern-88')).toBe(false);
}, 60_000);

it('a second sender of the same file takes over from one that fell silent, and a stopped delivery leaves nothing', async () => {
  const bytes = Buffer.from(log(begin));
  const announced = { key: randomBytes(32).toString('hex'), files: [{ name: 'a.log', size: bytes.length }] };
  const { id } = (await call<Begun>('POST', '', announced)).body;
  const silent = new AbortController();
  const first = fetch(`${server.address}/api/deliveries/${id}/files/0?from=0`, {
    method: 'PUT',
    signal: silent.signal,
    duplex: 'half',
    body: new ReadableStream({ start: (to) => to.enqueue(new Uint8Array(bytes.subarray(0, 40))) }),
  } as RequestInit).then(
    async (answer) => ((await answer.json()) as Begun).error!.code,
    () => 'broken',
  );
  await eventually(
    async () => (await call<DeliveryView>('GET', `/${id}`)).body.sent,
    (sent) => sent === 40,
  );
  expect((await put(`/${id}/files/0?from=40`, bytes.subarray(40))).body.have).toBe(bytes.length);
  silent.abort();
  expect(['taken-over', 'broken']).toContain(await first);
  expect((await call('DELETE', `/${id}`)).status).toBe(200);
  expect((await call('GET', `/${id}`)).status).toBe(404);
  expect(readdirSync(join(data, 'deliveries'))).toEqual([]);
}, 30_000);

it('a watched folder gives what comes into it, what comes later to the run of its report', async () => {
  const watched = join(folder, 'watched');
  mkdirSync(watched);
  const child = spawn(
    process.execPath,
    [...program('src/cli/main.ts'), '--server', server.address, '--json', 'watch', watched, '--quiet', '0.6'],
    { env: { ...process.env, HOME: folder }, stdio: ['ignore', 'pipe', 'inherit'] },
  );
  const told: IntakeResult[] = [];
  let text = '';
  child.stdout.on('data', (chunk: Buffer) => {
    text += chunk.toString();
    for (let end = text.indexOf('\n}\n'); end >= 0; end = text.indexOf('\n}\n')) {
      told.push(JSON.parse(text.slice(0, end + 2)) as IntakeResult);
      text = text.slice(end + 3);
    }
  });
  try {
    // Without a report it waits for one.
    writeFileSync(join(watched, 'desk.log'), log(begin + 300));
    await new Promise((done) => setTimeout(done, 2500));
    expect(told).toEqual([]);
    writeFileSync(join(watched, 'report.xml'), report('watched'));
    await eventually(
      () => told.length,
      (count) => count === 1,
      20_000,
    );
    expect(told[0]).toMatchObject({ attempts: 2, attached: 1, unmatched: [] });
    mkdirSync(join(watched, 'late'));
    writeFileSync(join(watched, 'late', 'printer.log'), log(begin + 9300));
    await eventually(
      () => told.length,
      (count) => count === 2,
      20_000,
    );
    expect(told[1]).toMatchObject({ runId: told[0]!.runId, attempts: 0, attached: 1 });
  } finally {
    const ended = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await ended;
  }
}, 60_000);
