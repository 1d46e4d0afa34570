import { mkdirSync, mkdtempSync, readdirSync, readFileSync, readlinkSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../../demo/site/site.ts';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { processesMarked } from '../../src/browser/sweep.mjs';
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
import { honestRequests, hostile, sendHostile } from './hostile-wire.ts';

/**
 * Thousands of requests that nobody honest sends, while four tests are being recorded: the server is the same one
 * afterwards, nothing of the four is lost, and it holds no more than before. `npm run hostile` sends 20,000 and more.
 */
const requests = Number(process.env.ISKEL_HOSTILE ?? 300);
const seed = Number(process.env.ISKEL_SEED ?? 20_261_128);
const atOnce = 16;
/** Connections of this test's own clients are kept for a minute and more; only the long run waits that long. */
const patient = process.env.ISKEL_HOSTILE !== undefined;
const ourConnections = 30;

let site: FerrySite;
let home: string;
let server: ServerProcess;
beforeAll(async () => {
  site = await startFerrySite();
  home = mkdtempSync(join(tmpdir(), 'iskel-hostile-'));
  // Its temporary files lie in a folder of their own, where nobody else writes.
  mkdirSync(join(home, 'tmp'));
  server = await startServerProcess({ data: join(home, 'data'), env: { TMPDIR: join(home, 'tmp') } });
}, 60_000);
afterAll(async () => {
  await server.stop();
  await site.close();
  rmSync(home, { recursive: true, force: true });
});

const mark = (): string => markOf(join(home, 'data'));
const descriptors = (): number => readdirSync(`/proc/${server.child.pid!}/fd`).length;
/** What the descriptors are of, counted, for a message that helps. */
const kindsOfDescriptors = (): Record<string, number> => {
  const kinds: Record<string, number> = {};
  for (const name of readdirSync(`/proc/${server.child.pid!}/fd`)) {
    let of = 'gone';
    try {
      of = readlinkSync(`/proc/${server.child.pid!}/fd/${name}`).replace(/\d+/g, 'n').replace(/^.*\//, '');
    } catch {
      // Closed meanwhile.
    }
    kinds[of] = (kinds[of] ?? 0) + 1;
  }
  return kinds;
};
const memory = (): number =>
  (Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.child.pid!}/status`, 'utf8'))?.[1]) * 1024) / 1024 ** 2;
const temporary = (): string[] => readdirSync(join(home, 'tmp'));
/** A browser starts and ends helpers as its pages need them, and the victim's may be told to open more. */
const isHelper = (id: number): boolean => {
  try {
    return readFileSync(`/proc/${id}/cmdline`, 'utf8').includes('--type=');
  } catch {
    return true;
  }
};
const processes = (): number => processesMarked(mark()).filter((id) => !isHelper(id)).length;

const open = (title: string): Promise<WebDriver> =>
  WebDriver.open(`${server.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': { run: 'under fire', test: { suite: 'standing', title }, detail: 'light' },
  });

interface Recorded {
  id: string;
  commands: number;
  seen: string[];
}

/** A test that goes on until it is told to end, and knows what it did. */
async function testUntil(title: string, over: () => boolean): Promise<Recorded> {
  const driver = await open(title);
  let commands = 0;
  const seen: string[] = [];
  const send = async <T>(method: string, path: string, body?: object): Promise<T> => {
    commands++;
    return driver.send<T>(method, path, body);
  };
  do {
    await send('POST', '/url', { url: `${site.address}/sailings/l-2130` });
    const field = await send<Record<string, string>>('POST', '/element', {
      using: 'css selector',
      value: '#passenger',
    });
    const id = Object.values(field)[0]!;
    await send('POST', `/element/${id}/value`, { text: title });
    seen.push(await send<string>('GET', `/element/${id}/property/value`));
    await sleep(60);
  } while (!over());
  await driver.outcome('passed');
  await driver.quit();
  return { id: driver.attempt, commands, seen };
}

/** Sends so many hostile requests, some at once. @returns what was heard, by what was sent */
async function fire(count: number, from: number, victims: readonly string[]): Promise<Map<string, string[]>> {
  const honest = honestRequests([...victims, 'f'.repeat(32), '__proto__'], site.address);
  const random = seeded(from);
  const port = Number(new URL(server.address).port);
  const heard = new Map<string, string[]>();
  let left = count;
  const lane = async (): Promise<void> => {
    while (left-- > 0) {
      const request = hostile(random, honest, new URL(server.address).host);
      const { status, text } = await sendHostile(port, request);
      const key = `${request.api ? 'api' : 'other'} ${status ?? 'none'}`;
      const list = heard.get(key) ?? [];
      heard.set(key, list);
      if (list.length < 400) list.push(`${request.what} → ${text.slice(0, 30)} … ${text.slice(-300)}`);
      // A session that was really begun is ended like any other.
      const begun = /"sessionId":"([0-9a-f]{32})"/.exec(text)?.[1];
      if (begun) await fetch(`${server.address}/wd/session/${begun}`, { method: 'DELETE' }).catch(() => undefined);
    }
  };
  await Promise.all(Array.from({ length: atOnce }, lane));
  return heard;
}

describe('a server under fire', () => {
  it(`stands ${requests} hostile requests while four tests are recorded`, async () => {
    // A first round warms up what is started once: threads, the spare driver, compiled code.
    const warm = await Promise.all(Array.from({ length: 4 }, (_, i) => testUntil(`warm ${i}`, () => true)));
    for (const { id } of warm) await ready(server.address, id);
    await json('GET', `${server.address}/api/attempts/${warm[0]!.id}/advice`);
    const delivery = new FormData();
    delivery.append('files', new Blob(['<testsuite name="s"><testcase name="c"/></testsuite>']), 'warm.xml');
    await fetch(`${server.address}/api/intake`, { method: 'POST', body: delivery });
    const victim = await open('victim');
    await fire(Math.min(600, requests), seed - 1, [victim.session]);
    await eventually(processes, (count) => count > 0);
    await sleep(2000);
    const before = {
      descriptors: descriptors(),
      memory: memory(),
      processes: processes(),
      temporary: temporary().length,
    };

    const kindsBefore = kindsOfDescriptors();
    let over = false;
    const tests = Array.from({ length: 4 }, (_, i) => testUntil(`recorded under fire ${i}`, () => over));
    const began = Date.now();
    const heard = await fire(requests, seed, [victim.session]).finally(() => (over = true));
    const took = Date.now() - began;
    const recorded = await Promise.all(tests);

    // The same process, and nothing reached its last resort.
    expect(server.child.exitCode).toBeNull();
    const health = await json<{ ok: boolean; faults: number }>('GET', `${server.address}/api/health`);
    expect(health.body).toMatchObject({ ok: true, faults: 0 });
    // Whatever a client sends is the client's fault.
    expect(heard.get('api 500') ?? []).toEqual([]);
    expect([...heard.keys()].length).toBeGreaterThan(6);

    for (const { id, commands, seen } of recorded) {
      const attempt = await ready(server.address, id);
      expect(attempt).toMatchObject({ outcome: 'passed', interruptedBy: null });
      const { body } = await json<{ events: { kind: string; data: { result?: string; subject?: string } }[] }>(
        'GET',
        `${server.address}/api/attempts/${id}/events?lane=step&limit=10000`,
      );
      const steps = body.events.filter(({ kind }) => kind === 'command');
      expect(steps).toHaveLength(commands);
      expect(seen.every((value) => value.startsWith('recorded under fire'))).toBe(true);
      expect(steps.filter(({ data }) => data.subject === 'property value').map(({ data }) => data.result)).toEqual(
        seen,
      );
    }

    // It holds nothing of what is over.
    const now = (): typeof before => ({
      descriptors: descriptors(),
      memory: memory(),
      processes: processes(),
      temporary: temporary().length,
    });
    const after = await eventually(
      now,
      (held) =>
        held.descriptors <= before.descriptors + (patient ? 5 : ourConnections) &&
        held.memory <= before.memory + 50 &&
        held.processes <= before.processes &&
        held.temporary <= before.temporary,
      120_000,
    ).catch((error: Error) => {
      const held = JSON.stringify({ before, kindsBefore, kindsNow: kindsOfDescriptors(), left: temporary() });
      throw new Error(`${error.message}; ${held}`);
    });
    await victim.quit().catch(() => undefined);
    const answers = [...heard].map(([key, list]) => `${key}: ${list.length}${list.length === 400 ? '+' : ''}`).sort();
    console.log(
      `${requests} hostile requests in ${Math.round(took / 1000)} s, seed ${seed}; ${recorded.reduce((sum, one) => sum + one.commands, 0)} commands recorded beside them\n` +
        `before ${JSON.stringify(before)}, after ${JSON.stringify(after)}\n${answers.join(', ')}`,
    );
  }, 3_000_000);
});
