import { spawn } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Attempt, EvidenceFile, IntakeResult } from '../../src/core/records.ts';
import { readPack } from '../../src/core/formats/pack.ts';
import { eventually, json, program, ready, sleep, startServerProcess, type ServerProcess } from '../helpers.ts';
import { page } from './helpers.ts';

let server: ServerProcess;
let folder: string;
beforeAll(async () => {
  server = await startServerProcess();
  folder = mkdtempSync(join(tmpdir(), 'iskel-cli-'));
});
afterAll(async () => {
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});

const call = <T>(method: string, path: string, body?: unknown): Promise<{ status: number; body: T }> =>
  json<T>(method, `${server.address}/api${path}`, body);
async function take(
  files: Record<string, string | Buffer>,
  fields: Record<string, string> = {},
): Promise<{ status: number; body: IntakeResult & { error?: { code: string; message: string } } }> {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  for (const [name, content] of Object.entries(files))
    form.append('files', new Blob([new Uint8Array(Buffer.from(content as Buffer))]), name);
  const answer = await fetch(`${server.address}/api/intake`, { method: 'POST', body: form });
  return { status: answer.status, body: (await answer.json()) as IntakeResult };
}
const report = `<testsuite name="booking" timestamp="2026-11-23T10:00:00"><properties><property name="browser" value="chromium"/></properties>
  <testcase name="holds a seat" time="2"><failure message="expected 'a' to be 'b'">at hold (hold.ts:3:1)</failure></testcase><testcase name="holds a seat" time="2"/>
  <testcase name="shows the fare" time="3"><failure message="expected 'c' to be 'd'">at fare (fare.ts:9:1)</failure></testcase></testsuite>`;

describe('a delivery', () => {
  it('answers as the contract says, and the same again brings nothing new', async () => {
    const first = await take({ 'r.xml': report, 'odd.bin': Buffer.from([0, 1, 2, 0, 255]) }, { run: 'contract' });
    expect(first).toMatchObject({
      status: 200,
      body: {
        attempts: 3,
        attached: 0,
        unmatched: [{ name: 'odd.bin', why: expect.stringContaining('no kind') as string }],
        problems: [],
      },
    });
    const again = await take({ 'r.xml': report }, { run: 'contract' });
    expect(again.body).toMatchObject({ runId: first.body.runId, attempts: 0 });
    const { body } = await call<{ totals: object; families: { since: string; count: number }[] }>(
      'GET',
      `/runs/${first.body.runId}`,
    );
    expect(body.totals).toMatchObject({ tests: 2, attempts: 3, flaky: 1, failed: 1 });
    expect(body.families.map((one) => one.since)).toEqual(['new', 'new']);
  });
  it('is refused in words when it is none', async () => {
    expect((await call<{ error: { code: string } }>('POST', '/intake', {})).body.error.code).toBe(
      'unreadable-delivery',
    );
    expect((await take({}, { run: 'x' })).body.error?.code).toBe('no-files');
    expect((await take({ 'r.xml': report }, { zone: 'noon' })).body.error?.message).toContain('zone');
    expect((await take({ 'r.xml': report }, { labels: '{' })).body.error?.code).toBe('wrong-field');
  });
  it('can be stopped, and then nothing of it is kept', async () => {
    const cases = Array.from({ length: 60_000 }, (_, i) => `<testcase name="stopped ${i}"/>`).join('');
    const taking = take({ 'long.xml': `<testsuite name="s">${cases}</testsuite>` }, { run: 'stopped' });
    const { intakes } = await eventually(
      async () => (await call<{ intakes: { id: string; done: number }[] }>('GET', '/intake')).body,
      (told) => (told.intakes[0]?.done ?? 0) > 500,
    );
    expect((await call('DELETE', `/intake/${intakes[0]!.id}`)).status).toBe(200);
    expect(await taking).toMatchObject({
      status: 422,
      body: { error: { message: expect.stringContaining('nothing of it is kept') as string } },
    });
    const { runs } = (await call<{ runs: { name: string }[] }>('GET', '/runs')).body;
    expect(runs.map((run) => run.name)).not.toContain('stopped');
    expect((await call('DELETE', '/intake/i-none')).status).toBe(404);
    expect((await take({ 'r.xml': report }, { run: 'after a stop' })).body.attempts).toBe(3);
  });
  it('that was being read when the server was killed is taken back whole', async () => {
    const data = mkdtempSync(join(tmpdir(), 'iskel-killed-'));
    const doomed = await startServerProcess({ data });
    const cases = Array.from({ length: 60_000 }, (_, i) => `<testcase name="case ${i}"/>`).join('');
    const form = new FormData();
    form.append('files', new Blob([`<testsuite name="s">${cases}</testsuite>`]), 'large.xml');
    const sent = fetch(`${doomed.address}/api/intake`, { method: 'POST', body: form }).catch(() => undefined);
    const count = (): number => {
      const db = new Database(join(data, 'iskel.sqlite'), { readonly: true });
      const { n } = db.prepare('SELECT count(*) AS n FROM attempts').get() as { n: number };
      db.close();
      return n;
    };
    await eventually(count, (n) => n > 1000);
    doomed.child.kill('SIGKILL');
    await sent;
    await sleep(300);
    const next = await startServerProcess({ data });
    expect(count()).toBe(0);
    expect((await json<{ runs: [] }>('GET', `${next.address}/api/runs`)).body.runs).toEqual([]);
    await next.stop();
    rmSync(data, { recursive: true });
  });
});

describe('files placed by hand', () => {
  it('follow, come back, and are found where they are', async () => {
    const at = Date.parse('2026-11-23T10:00:01Z');
    const { body } = await take(
      { 'r.xml': report, '9f86.png': await page('desk', 'one'), 'lost.txt': 'the desk spoke' },
      { run: 'by hand', modified: JSON.stringify({ '9f86.png': at }) },
    );
    const { attempts } = (await call<{ attempts: Attempt[] }>('GET', `/runs/${body.runId}/attempts`)).body;
    const files = (await call<{ files: EvidenceFile[] }>('GET', `/runs/${body.runId}/files`)).body.files;
    const lost = files.find((file) => file.name === 'lost.txt')!;
    expect(lost).toMatchObject({ state: 'waiting', attemptId: null });
    const notes = async (id: string): Promise<string[]> =>
      (
        await call<{ events: { lane: string; data: { label: string } }[] }>('GET', `/attempts/${id}/events?lane=note`)
      ).body.events.map((event) => event.data.label);
    const fare = attempts.find((one) => one.test.title === 'shows the fare')!;
    const seat = attempts.find((one) => one.test.title === 'holds a seat')!;
    expect((await call('POST', `/files/${lost.id}/place`, { attemptId: fare.id })).status).toBe(200);
    expect(await notes(fare.id)).toEqual(['the desk spoke']);
    await call('POST', `/files/${lost.id}/place`, { attemptId: seat.id });
    expect(await notes(fare.id)).toEqual([]);
    expect(await notes(seat.id)).toEqual(['the desk spoke']);
    await call('POST', `/files/${lost.id}/offset`, { offsetMs: 750 });
    expect(
      (await call<{ events: { at: number }[] }>('GET', `/attempts/${seat.id}/events?lane=note`)).body.events[0]!.at,
    ).toBe(750);
    await call('POST', `/files/${lost.id}/place`, { attemptId: null });
    expect(await notes(seat.id)).toEqual([]);
    expect(
      (await call<{ error: { code: string } }>('POST', `/files/${lost.id}/place`, { attemptId: 'a-none' })).status,
    ).toBe(404);
    expect(
      (await call<{ error: { code: string } }>('POST', `/files/${lost.id}/offset`, { offsetMs: 1 })).body.error.code,
    ).toBe('not-placed');
  });
});

describe('families by hand', () => {
  it('are joined, split and taken back, and remembered for failures to come', async () => {
    const { body } = await take({ 'r.xml': report.replaceAll('10:00:00', '11:00:00') }, { run: 'families' });
    const ids = async (run: string): Promise<string[]> =>
      (await call<{ families: { id: string }[] }>('GET', `/runs/${run}`)).body.families.map((one) => one.id);
    const [a, b] = (await ids(body.runId!)) as [string, string];
    const { move } = (await call<{ move: { id: number } }>('POST', `/families/${a}/join`, { into: b })).body;
    expect(await ids(body.runId!)).toEqual([b]);
    const later = (await take({ 'r.xml': report.replaceAll('10:00:00', '12:00:00') }, { run: 'families later' })).body
      .runId!;
    expect(await ids(later)).toEqual([b]);
    const seat = (await call<{ attempts: Attempt[] }>('GET', `/runs/${later}/attempts`)).body.attempts.find(
      (one) => one.familyId && one.test.title === 'shows the fare',
    )!;
    const split = (
      await call<{ move: { id: number; intoId: string } }>('POST', `/families/${b}/split`, {
        attemptId: seat.id,
        by: 'test',
      })
    ).body.move;
    expect(new Set(await ids(later))).toEqual(new Set([b, split.intoId]));
    const still = (await take({ 'r.xml': report.replaceAll('10:00:00', '13:00:00') }, { run: 'families still later' }))
      .body.runId!;
    expect(new Set(await ids(still))).toEqual(new Set([b, split.intoId]));
    expect((await call('POST', `/moves/${split.id}/undo`)).status).toBe(200);
    expect(await ids(later)).toEqual([b]);
    expect((await call('POST', `/moves/${split.id}/undo`)).status).toBe(409);
    expect((await call('POST', `/moves/${move.id}/undo`)).status).toBe(200);
    expect(new Set(await ids(body.runId!))).toEqual(new Set([a, b]));
  });
});

describe('evidence streamed by a reporter', () => {
  const begin = {
    key: 'one',
    run: 'streamed',
    test: { suite: 'booking', title: 'streams' },
    startedAt: '2026-11-23T10:00:00Z',
    environment: { browser: 'webkit', version: '2' },
  };
  const send = (id: string, lines: object[]): Promise<Response> =>
    fetch(`${server.address}/api/attempts/${id}/events`, {
      method: 'POST',
      body: lines.map((line) => JSON.stringify(line)).join('\n'),
    });

  it('is there once, however often it is sent', async () => {
    const first = await call<{ id: string }>('POST', '/attempts', begin);
    expect(first.status).toBe(201);
    const { id } = first.body;
    expect(await call('POST', '/attempts', begin)).toMatchObject({ status: 200, body: { id } });
    const picture = await fetch(`${server.address}/api/attempts/${id}/blobs/first.png`, {
      method: 'PUT',
      body: new Uint8Array(await page('streamed', 'one')),
    });
    expect(picture.status).toBe(201);
    const lines = [
      { id: 's1', lane: 'step', at: 10, until: 40, data: { label: 'Press on “Hold seat”', action: 'press' } },
      { id: 'n1', lane: 'network', time: '2026-11-23T10:00:00.020Z', data: { url: 'http://ferry.test/fare' } },
      { id: 'p1', lane: 'screen', at: 45, data: { blob: 'first.png' } },
    ];
    for (let i = 0; i < 3; i++) expect(await (await send(id, lines)).json()).toEqual({ taken: 3, refused: [] });
    expect(
      await (
        await send(id, [
          { id: 'x', lane: 'nowhere' },
          { id: 's2', lane: 'step', at: 60, data: { label: 'Read the fare' } },
        ])
      ).json(),
    ).toMatchObject({ taken: 1, refused: [{ line: 1, message: expect.stringContaining('lane') as string }] });
    expect((await send(id, [{ lane: 'step' }])).status).toBe(400);
    await call('POST', `/attempts/${id}/outcome`, {
      status: 'failed',
      message: 'expected "1" but got "2"',
      durationMs: 90,
    });
    const attempt = await ready(server.address, id);
    expect(attempt).toMatchObject({ outcome: 'failed', durationMs: 90, failure: { kind: 'assertion' } });
    const events = (
      await call<{ events: { id: string; lane: string; data: { blob?: string; width?: number } }[] }>(
        'GET',
        `/attempts/${id}/events`,
      )
    ).body.events;
    expect(events.filter((event) => ['s1', 's2', 'n1', 'p1'].includes(event.id)).map((event) => event.id)).toEqual([
      's1',
      'n1',
      'p1',
      's2',
    ]);
    expect(events.find((event) => event.id === 'p1')!.data).toMatchObject({ width: 640 });
    const pack = readPack(
      new Uint8Array(await (await fetch(`${server.address}/api/attempts/${id}/pack`)).arrayBuffer()),
    );
    expect(pack.blobs.size).toBe(1);
  });

  it('goes on after the server was killed, and asks for secrets it no longer knows', async () => {
    const data = mkdtempSync(join(tmpdir(), 'iskel-stream-'));
    let own = await startServerProcess({ data });
    const told = { ...begin, secrets: ['the harbour gate'] };
    const { id } = (await json<{ id: string }>('POST', `${own.address}/api/attempts`, told)).body;
    const body = (from: number): string =>
      Array.from({ length: 4000 }, (_, i) =>
        JSON.stringify({
          id: `e${from + i}`,
          lane: 'console',
          at: from + i,
          data: { text: `the harbour gate opened ${from + i}` },
        }),
      ).join('\n');
    const post = async (text: string): Promise<Response | undefined> =>
      fetch(`${own.address}/api/attempts/${id}/events`, { method: 'POST', body: text }).catch(() => undefined);
    expect((await post(body(0)))!.status).toBe(200);
    const lost = post(body(4000));
    await sleep(40);
    own.child.kill('SIGKILL');
    await lost;
    await sleep(200);
    own = await startServerProcess({ data });
    const refused = (await post(body(4000)))!;
    expect(refused.status).toBe(409);
    expect(await refused.text()).toContain('secrets-needed');
    expect((await json('POST', `${own.address}/api/attempts`, told)).status).toBe(200);
    expect((await post(body(4000)))!.status).toBe(200);
    await own.stop();
    const db = new Database(join(data, 'iskel.sqlite'), { readonly: true });
    const rows = db
      .prepare(
        'SELECT count(*) AS n, count(DISTINCT id) AS ids, sum(data LIKE ?) AS bare FROM events WHERE attempt_id = ?',
      )
      .get('%harbour gate%', id);
    db.close();
    expect(rows).toEqual({ n: 8000, ids: 8000, bare: 0 });
    rmSync(data, { recursive: true });
  });

  it('comes from the two example reporters', async () => {
    const work = mkdtempSync(join(tmpdir(), 'iskel-reporters-'));
    cpSync('docs/reporters', work, { recursive: true });
    writeFileSync(
      join(work, 'a.test.mjs'),
      "import { test, describe } from 'node:test'; import assert from 'node:assert'; describe('booking', () => { test('holds', () => {}); test('fares', () => assert.equal(412, 384)); });",
    );
    writeFileSync(
      join(work, 'test_a.py'),
      "import unittest\nclass Holds(unittest.TestCase):\n    def test_holds(self): pass\n    def test_fares(self): self.assertEqual(412, 384)\n    @unittest.skip('closed')\n    def test_later(self): pass\n",
    );
    const env = { ...process.env, ISKEL: server.address, ISKEL_RUN: 'from reporters' };
    const ended = (program: string, args: string[]): Promise<unknown> =>
      new Promise((done) =>
        spawn(program, args, { cwd: work, env: { ...env, NODE_OPTIONS: '' }, stdio: 'ignore' }).on('exit', done),
      );
    await ended(process.execPath, ['--test', '--test-reporter=./reporter.mjs', 'a.test.mjs']);
    await ended('python3', ['reporter.py', 'test_a']);
    const { runs } = (await call<{ runs: { id: string; name: string; totals: object }[] }>('GET', '/runs')).body;
    expect(runs.find((run) => run.name === 'from reporters')!.totals).toMatchObject({
      tests: 5,
      passed: 2,
      failed: 2,
      skipped: 1,
    });
    rmSync(work, { recursive: true });
  });
});

/** Runs the command. Not in one go: while it works, connections that the server has closed are heard of. */
async function command(...args: string[]): Promise<{ status: number | null; out: string; err: string }> {
  // Its own files do not go into the home of whoever runs the tests.
  const env = { ...process.env, HOME: folder };
  const child = spawn(process.execPath, [...program('src/cli/main.ts'), ...args], { env });
  let out = '';
  let err = '';
  child.stdout.on('data', (chunk: Buffer) => (out += chunk.toString()));
  child.stderr.on('data', (chunk: Buffer) => (err += chunk.toString()));
  const status = await new Promise<number | null>((done) => child.on('close', done));
  return { status, out, err };
}

describe('the command iskel', () => {
  const iskel = (...args: string[]): Promise<{ status: number | null; out: string; err: string }> =>
    command('--server', server.address, ...args);
  it('takes in, lists, shows and exports, with exit codes that tell', async () => {
    writeFileSync(join(folder, 'r.xml'), report);
    const taken = await iskel('intake', folder, '--run', 'by command', '--label', 'browser=firefox', '--json');
    expect(taken).toMatchObject({ status: 0 });
    const { runId } = JSON.parse(taken.out) as IntakeResult;
    expect((await iskel('runs')).out).toContain('by command');
    expect((await iskel('show', runId!)).out).toMatch(/2 tests, 3 attempts; 0 passed, 1 failed, 1 flaky/);
    const attempt = (JSON.parse((await iskel('show', runId!, '--json')).out) as { attempts: Attempt[] }).attempts.find(
      (one) => one.outcome === 'failed',
    )!;
    expect(attempt.environment.browser).toBe('firefox');
    expect((await iskel('show', attempt.id)).out).toContain('was expected');
    const out = join(folder, 'out.xml');
    expect((await iskel('export', runId!, '-o', out)).status).toBe(0);
    expect(readFileSync(out, 'utf8')).toContain('<testsuites name="by command"');
    expect(await iskel('export', attempt.id, '--as', 'csv')).toMatchObject({ status: 2 });
    expect(existsSync(`${attempt.id}.csv`)).toBe(false);
    writeFileSync(join(folder, 'odd.bin'), Buffer.from([0, 1, 0, 255]));
    expect(await iskel('intake', join(folder, 'odd.bin'), '--run', 'by command')).toMatchObject({
      status: 3,
      out: expect.stringContaining('not placed: odd.bin') as string,
    });
    expect(await iskel('intake', join(folder, 'none.xml'))).toMatchObject({
      status: 2,
      err: expect.stringContaining('there is no file') as string,
    });
    expect(await iskel('show', 'r-none')).toMatchObject({
      status: 1,
      err: expect.stringContaining('there is no run') as string,
    });
    expect(await iskel('fly')).toMatchObject({ status: 2 });
    expect((await iskel('--help')).out).toMatch(/intake .*runs .*show .*export .*serve /s);
  }, 180_000);
  it('works on a data folder without a server', async () => {
    const data = join(folder, 'own');
    const run = async (...args: string[]): Promise<string> => (await command('--data', data, ...args)).out;
    expect(await run('intake', join(folder, 'r.xml'))).toContain('3 attempts');
    expect(await run('runs')).toContain('2 tests, 1 failed, 1 flaky');
  }, 120_000);
});

it('standing rules mask one’s own patterns and know one’s own code', async () => {
  expect((await call<{ error: { message: string } }>('PUT', '/rules', { masks: ['('] })).body.error.message).toContain(
    'no regular expression',
  );
  expect((await call<{ error: { message: string } }>('PUT', '/rules', { masks: ['x*'] })).body.error.message).toContain(
    'empty text',
  );
  expect(
    (
      await call('PUT', '/rules', {
        masks: ['LF-\\d{6}'],
        frames: { own: ['node_modules/@lodos'], library: ['hold.ts'] },
      })
    ).status,
  ).toBe(200);
  const { body } = await take(
    {
      'r.xml': report
        .replace("expected 'a' to be 'b'", "booking LF-123456 expected 'a' to be 'b'")
        .replace('at hold (hold.ts:3:1)', 'at hold (hold.ts:3:1)\n    at kit (/srv/node_modules/@lodos/kit.ts:7:1)'),
    },
    { run: 'ruled' },
  );
  const failed = (await call<{ attempts: Attempt[] }>('GET', `/runs/${body.runId}/attempts`)).body.attempts.find(
    (one) => one.test.title === 'holds a seat' && one.outcome === 'failed',
  )!;
  expect(failed.message).not.toContain('LF-123456');
  expect(failed.failure!.ownFrame).toMatchObject({ line: 7 });
  await call('PUT', '/rules', {});
});

it('an export of a run is read back as the same run', async () => {
  const { body } = await take({ 'r.xml': report }, { run: 'there and back' });
  const xml = await (await fetch(`${server.address}/api/runs/${body.runId}/junit`)).text();
  const back = await take({ 'back.xml': xml }, { run: 'back again' });
  const outcomes = async (run: string): Promise<string[]> =>
    (await call<{ attempts: Attempt[] }>('GET', `/runs/${run}/attempts`)).body.attempts.map(
      (one) => `${one.test.suite} ${one.test.title} ${one.number} ${one.outcome} ${one.durationMs} ${one.message}`,
    );
  expect(await outcomes(back.body.runId!)).toEqual(await outcomes(body.runId!));
  const table = await (await fetch(`${server.address}/api/runs/${body.runId}/table`)).text();
  expect(table.split('\r\n')).toHaveLength(5);
});
