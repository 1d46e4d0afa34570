import { spawn, type ChildProcess } from 'node:child_process';
import { copyFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../../demo/site/site.ts';
import { processesMarked } from '../../src/browser/sweep.mjs';
import { Store } from '../../src/server/store/store.ts';
import {
  chromeArguments,
  eventually,
  json,
  markOf,
  ready,
  sleep,
  startServerProcess,
  type ServerProcess,
} from '../helpers.ts';
import { seeded } from '../../src/core/stats/seeded.ts';

/**
 * Whatever is killed at whatever moment, with several tests at once: nothing finished is lost, nothing is left running,
 * and what is there is whole. `npm run hostile` kills a hundred times and copies twenty.
 */
const kills = Number(process.env.ISKEL_KILLS ?? 2);
const copies = Number(process.env.ISKEL_COPIES ?? 2);
const random = seeded(Number(process.env.ISKEL_SEED ?? 20_261_128));
const sessions = 3;

let site: FerrySite;
let home: string;
let data: string;
let server: ServerProcess;
const start = async (): Promise<void> => {
  server = await startServerProcess({ data, env: { ISKEL_IDLE_SECONDS: '2', ISKEL_LOG: 'fatal' } });
};
beforeAll(async () => {
  site = await startFerrySite();
  home = mkdtempSync(join(tmpdir(), 'iskel-killed-'));
  data = join(home, 'data');
  await start();
}, 60_000);
afterAll(async () => {
  await server.stop();
  await site.close();
  rmSync(home, { recursive: true, force: true });
});

interface Client {
  child: ChildProcess;
  /** Of its attempt, once the session has begun. */
  id: Promise<string | undefined>;
}
function startClient(title: string): Client {
  const args = [
    'tests/standing/client.mjs',
    `${server.address}/wd`,
    site.address,
    title,
    JSON.stringify(chromeArguments),
  ];
  const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'ignore'] });
  const id = new Promise<string | undefined>((done) => {
    child.stdout.once('data', (chunk: Buffer) => done(chunk.toString().trim()));
    child.once('exit', () => done(undefined));
  });
  return { child, id };
}
const ended = (child: ChildProcess): Promise<unknown> =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise((done) => child.once('exit', done));

const commandOf = (pid: number): string => {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  } catch {
    return '';
  }
};
const ours = (pattern: RegExp): number[] => processesMarked(markOf(data)).filter((pid) => pattern.test(commandOf(pid)));
const browsers = (): number[] => ours(/chromium(?!driver)(?!.*--type=)(?!.*crashpad)/);
const drivers = (): number[] => ours(/^\S*chromedriver/);
const kill = (pid: number): void => {
  try {
    process.kill(pid, 'SIGKILL');
  } catch {
    // It has just ended by itself.
  }
};

async function integrity(): Promise<void> {
  const db = new Database(join(data, 'iskel.sqlite'), { readonly: true });
  expect(db.pragma('integrity_check', { simple: true })).toBe('ok');
  expect(db.pragma('foreign_key_check')).toEqual([]);
  db.close();
}

/** Every blob that an attempt names is there, and as long as it says. */
async function blobsOf(id: string): Promise<number> {
  const { events } = (
    await json<{ events: { data: { blob?: string } }[] }>(
      'GET',
      `${server.address}/api/attempts/${id}/events?limit=10000`,
    )
  ).body;
  const names = [...new Set(events.flatMap(({ data: { blob } }) => blob ?? []))];
  const db = new Database(join(data, 'iskel.sqlite'), { readonly: true });
  for (const name of names) {
    const row = db.prepare('SELECT size FROM blobs WHERE name = ?').get(name) as { size: number } | undefined;
    expect(row?.size, name).toBe(statSync(join(data, 'blobs', name.slice(0, 2), name)).size);
  }
  db.close();
  return names.length;
}

type Kind = 'server' | 'driver' | 'browser' | 'client' | 'all at once';

async function round(kind: Kind, number: number): Promise<number> {
  const clients = Array.from({ length: sessions }, (_, i) => startClient(`${kind} ${number}.${i}`));
  // Sometimes while sessions are still starting, sometimes in the middle of them.
  if (random() < 0.8) await Promise.all(clients.map(({ id }) => id));
  await sleep(random() * 1600);
  const gone = ended(server.child);
  if (kind === 'server' || kind === 'all at once') server.child.kill('SIGKILL');
  if (kind === 'driver' || kind === 'all at once') for (const pid of drivers()) kill(pid);
  if (kind === 'browser' || kind === 'all at once') for (const pid of browsers()) kill(pid);
  if (kind === 'client' || kind === 'all at once') for (const { child } of clients) child.kill('SIGKILL');
  await sleep(random() * 400);
  for (const { child } of clients) child.kill('SIGKILL');
  await Promise.all(clients.map(({ child }) => ended(child)));
  if (kind === 'server' || kind === 'all at once') {
    await gone;
    // Nothing of it is left running, although it could not tidy up.
    await eventually(
      () => processesMarked(markOf(data)).length,
      (count) => count === 0,
      20_000,
    );
    await integrity();
    await start();
  }
  const begun = (await Promise.all(clients.map(({ id }) => id))).filter((id) => id !== undefined);
  let pictures = 0;
  for (const id of begun) {
    const attempt = await ready(server.address, id);
    expect(attempt.outcome).toBe('interrupted');
    expect(attempt.interruptedBy).toBeTruthy();
    pictures += await blobsOf(id);
  }
  // No more than the spare driver.
  await eventually(
    () => [browsers().length, drivers().length],
    ([b = 0, d = 0]) => b === 0 && d <= 1,
    30_000,
  );
  expect((await json<{ faults: number }>('GET', `${server.address}/api/health`)).body.faults).toBe(0);
  expect(readdirSync(join(data, 'blobs', 'unfinished'))).toEqual([]);
  return pictures;
}

describe('killed at random moments, several tests at once', () => {
  it(`${kills} times: everything is settled and whole, and nothing is left running`, async () => {
    const kinds: Kind[] = ['server', 'driver', 'browser', 'client', 'all at once'];
    let pictures = 0;
    for (let i = 0; i < kills; i++) pictures += await round(kinds[i % kinds.length]!, i);
    await integrity();
    expect(pictures).toBeGreaterThan(0);
    console.log(`${kills} kills of ${sessions} sessions each; ${pictures} pictures were whole afterwards`);
  }, 3_000_000);
});

/** Copies a folder file by file, as it is at that moment, while others write in it. */
function copyOf(from: string, to: string): void {
  mkdirSync(to, { recursive: true });
  for (const entry of readdirSync(from, { withFileTypes: true })) {
    const [source, target] = [join(from, entry.name), join(to, entry.name)];
    if (entry.isDirectory()) copyOf(source, target);
    else
      try {
        copyFileSync(source, target);
      } catch {
        // Gone since it was listed.
      }
  }
}

describe('copied in the middle of writing, as after a power cut', () => {
  it(`${copies} times: opens, is whole, and every picture it names is there`, async () => {
    const clients = Array.from({ length: sessions }, (_, i) => startClient(`copied ${i}`));
    await Promise.all(clients.map(({ id }) => id));
    let named = 0;
    let mended = 0;
    for (let i = 0; i < copies; i++) {
      await sleep(150 + random() * 900);
      const copy = join(home, `copy-${i}`);
      copyOf(data, copy);
      const store = new Store(copy);
      mended += await store.mend();
      expect(store.db.pragma('integrity_check', { simple: true })).toBe('ok');
      expect(store.db.pragma('foreign_key_check')).toEqual([]);
      const names = store.db
        .prepare(
          "SELECT DISTINCT json_extract(data, '$.blob') FROM events WHERE json_extract(data, '$.blob') IS NOT NULL",
        )
        .pluck()
        .all() as string[];
      for (const name of names) {
        const size = store.blobs.find(name)?.size;
        expect(size, name).toBe(statSync(store.blobs.place(name)).size);
      }
      named += names.length;
      expect(readdirSync(join(copy, 'blobs', 'unfinished'))).toEqual([]);
      store.close();
      rmSync(copy, { recursive: true });
    }
    for (const { child } of clients) child.kill('SIGKILL');
    expect(named).toBeGreaterThan(copies);
    console.log(`${copies} copies: ${named} named pictures whole, ${mended} that were not yet there are named no more`);
    await Promise.all(clients.map(({ child }) => ended(child)));
  }, 600_000);
});
