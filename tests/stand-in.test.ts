import { spawnSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readdirSync, readFileSync, readlinkSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { faultyTests } from '../demo/faults.ts';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { ferryTests } from '../demo/suite/tests.ts';
import { deliver } from '../src/browser/devtools/deliver.ts';
import { readyIn } from '../src/browser/devtools/spool.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { openPage, overPipe, overPort, standIn, type Client } from './devtools-client.ts';
import { playedAsCase, reportAfterwards } from './devtools-driver.ts';
import {
  attemptsOfRun,
  commandLabels,
  evidenceOf,
  eventually,
  json,
  program,
  ready,
  sleep,
  startServerProcess,
  type AttemptView,
  type ServerProcess,
} from './helpers.ts';

/** Tests of others through `iskel browser`: nothing of them is changed but the path of the browser. */

let server: ServerProcess;
let site: FerrySite;
let folder: string;

beforeAll(async () => {
  [server, site] = await Promise.all([
    // What was typed into the field for passwords is nowhere: a drill asks for it by name.
    startServerProcess({ env: { ISKEL_SECRET_CODE: 'wave-4711-crest' } }),
    startFerrySite(),
  ]);
  folder = mkdtempSync(join(tmpdir(), 'iskel-standin-'));
});
afterAll(async () => {
  await server.stop();
  await site.close();
  rmSync(folder, { recursive: true, force: true });
});

const told = (run: string, test?: string): Record<string, string> => ({
  ISKEL_URL: server.address,
  ISKEL_SPOOL: join(folder, run),
  ISKEL_RUN: run,
  ...(test ? { ISKEL_TEST: test } : {}),
});
const attemptsOf = (run: string): Promise<AttemptView[]> => attemptsOfRun(server.address, (name) => name === run);
const eventsOf = (id: string): Promise<EvidenceEvent[]> => evidenceOf(server.address, id);
const labels = commandLabels;

/** A drill of an attempt, twice. */
async function playedAgain(attemptId: string): Promise<{ done: number; failed: number }> {
  const made = await json<{ id: string }>('POST', `${server.address}/api/drills`, { attemptId });
  expect(made.status).toBe(201);
  // It was brought in: what it types somebody looks at first.
  const { asks } = (
    await json<{ asks: { hosts: string[]; secrets: string[]; files: string[] } | null }>(
      'GET',
      `${server.address}/api/drills/${made.body.id}`,
    )
  ).body;
  if (asks) expect((await json('POST', `${server.address}/api/drills/${made.body.id}/confirm`, asks)).status).toBe(200);
  const begun = await json<{ id: string }>('POST', `${server.address}/api/series`, {
    drillId: made.body.id,
    trials: 2,
  });
  return eventually(
    async () =>
      (
        await json<{ state: string; done: number; failed: number }>(
          'GET',
          `${server.address}/api/series/${begun.body.id}`,
        )
      ).body,
    ({ state }) => state === 'done',
    60_000,
  );
}

/** The ports at which a process and all that it started listen, from what the system lists. */
function listeningOf(root: number): string[] {
  const list = (path: string): string[] => {
    try {
      return readdirSync(path);
    } catch {
      // it ended meanwhile
      return [];
    }
  };
  const childrenOf = (pid: number): number[] =>
    list(`/proc/${pid}/task`).flatMap((thread) =>
      readFileSync(`/proc/${pid}/task/${thread}/children`, 'latin1').split(' ').filter(Boolean).map(Number),
    );
  const family = [root];
  for (const pid of family) family.push(...childrenOf(pid));
  expect(family.length).toBeGreaterThan(3);
  const links = family.flatMap((pid) =>
    list(`/proc/${pid}/fd`).map((fd) => {
      try {
        return readlinkSync(`/proc/${pid}/fd/${fd}`);
      } catch {
        return '';
      }
    }),
  );
  const sockets = new Set(links.flatMap((link) => /^socket:\[(\d+)\]$/.exec(link)?.[1] ?? []));
  const rows = ['tcp', 'tcp6'].flatMap((kind) => readFileSync(`/proc/net/${kind}`, 'latin1').split('\n').slice(1));
  return rows
    .map((row) => row.trim().split(/\s+/))
    .filter((fields) => fields[3] === '0A' && sockets.has(fields[9] ?? ''))
    .map((fields) => fields[1]!);
}

/** What a test of the ferry shop does, as its runner does it. */
async function pays(client: Client, isolated: boolean, passphrase: string): Promise<{ x: number; y: number }> {
  const { body } = await json<{ id: string }>('POST', `${site.address}/api/holds`, {
    sailing: 'KZ-0930',
    seat: '2A',
    name: 'Ece',
    extras: [],
  });
  const page = await openPage(client, isolated);
  await page.open(`${site.address}/checkout/${body.id}`);
  await page.press('#card');
  await page.type('4000 1234');
  await page.press('#code');
  await page.type(passphrase);
  const at = await page.press('#pay button');
  await page.until(`!document.querySelector('#paid').hidden`);
  // Three looks, however quick the shop is; and rest enough for the page to be written down.
  await page.until(`(window.looks = (window.looks ?? 0) + 1) > 2`);
  await sleep(900);
  await page.tell('Page.captureScreenshot', {});
  await page.close();
  return at;
}

it('over the pipe: each isolated context is an attempt, with steps, waits, presses, lifelines, network and pictures', async () => {
  const client = overPipe(told('pipe'));
  const { product } = await client.send<{ product: string }>('Browser.getVersion');
  expect(product).toMatch(/Chrome\/\d/);
  // What the client did not ask for stands open to nobody.
  expect(listeningOf(client.child.pid!)).toEqual([]);
  const [point] = await Promise.all([pays(client, true, 'wave-4711-crest'), pays(client, true, 'other-4711-tide')]);
  expect(await client.close()).toEqual({ code: 0, signal: null });
  expect(client.stderr()).not.toContain('DevTools listening');

  // Where the server was busy, the last may still wait.
  await eventually(
    async () => {
      await deliver(join(folder, 'pipe'));
      return readyIn(join(folder, 'pipe')).map(({ id }) => id);
    },
    (left) => left.length === 0,
  );
  const attempts = await eventually(
    () => attemptsOf('pipe'),
    (list) => list.length === 2,
  );
  expect(attempts.map(({ outcome, interruptedBy }) => [outcome, interruptedBy])).toEqual([
    ['unreported', null],
    ['unreported', null],
  ]);
  for (const { id } of attempts) {
    await ready(server.address, id);
    const events = await eventsOf(id);
    const steps = labels(events);
    expect(steps[0]).toMatch(/^Open \/checkout\/h\d+$/);
    expect(steps.filter((one) => one.startsWith('Press on'))).toHaveLength(3);
    expect(steps).toContain('Take a screenshot');
    // The same read again and again is a wait.
    expect(events.some((one) => one.lane === 'step' && one.kind === 'wait')).toBe(true);
    const presses = events.flatMap((one) => (one.lane === 'page' && one.kind === 'press' ? [one.data] : []));
    expect(presses.map(({ label }) => label)).toEqual([
      expect.stringContaining('#card'),
      expect.stringContaining('#code'),
      expect.stringContaining('button'),
    ]);
    const last = presses.at(-1)!;
    expect(Math.hypot(last.x! - point.x, last.y! - point.y)).toBeLessThanOrEqual(2);
    expect(
      events.some((one) => one.lane === 'network' && one.data.type === 'document' && one.data.status === 200),
    ).toBe(true);
    expect(events.some((one) => one.lane === 'screen' && one.kind === 'frame')).toBe(true);
    expect(events.some((one) => one.lane === 'screen' && one.kind === 'screenshot')).toBe(true);
    expect(events.some((one) => one.lane === 'page' && one.kind === 'structure')).toBe(true);
    // What was typed into a field for passwords is nowhere.
    expect(JSON.stringify(events)).not.toMatch(/4711-(?:crest|tide)/);
    expect(JSON.stringify(events)).toContain('4000 1234');
  }
});

it('over the port: the line and the profile name our address, and the one context is an attempt', async () => {
  const client = await overPort(told('port', 'pays by card'));
  const port = /:(\d+)\//.exec(client.address)![1]!;
  expect(readFileSync(join(client.profile, 'DevToolsActivePort'), 'utf8')).toBe(
    `${port}\n${new URL(client.address).pathname}`,
  );
  const version = (await (await fetch(`http://127.0.0.1:${port}/json/version`)).json()) as {
    webSocketDebuggerUrl: string;
  };
  expect(version.webSocketDebuggerUrl).toBe(client.address);
  await pays(client, false, 'wave-4711-crest');
  expect(await client.close()).toEqual({ code: 0, signal: null });
  const [attempt] = await eventually(
    () => attemptsOf('port'),
    (list) => list.length === 1,
  );
  expect(attempt).toMatchObject({ test: { title: 'pays by card' }, number: 1 });
  await ready(server.address, attempt!.id);
  const events = await eventsOf(attempt!.id);
  expect(labels(events).filter((one) => one.startsWith('Press on'))).toHaveLength(3);
  expect(JSON.stringify(events)).not.toContain('4711-crest');

  // A drill of it replays.
  expect(await playedAgain(attempt!.id)).toMatchObject({ done: 2, failed: 0 });
});

it('the runner’s report, dropped afterwards, tells which test each was and what became of it', async () => {
  const client = overPipe(told('untold'));
  const cases: string[] = [];
  for (const [title, failed] of [
    ['pays by card', false],
    ['is told the fare', true],
  ] as const) {
    const from = Date.now();
    await pays(client, true, 'wave-4711-crest');
    const failure = failed ? '<failure message="expected 412 but got 398"/>' : '';
    const stamp = new Date(from).toISOString();
    cases.push(
      `<testcase classname="checkout" name="${title}" timestamp="${stamp}" time="${(Date.now() - from) / 1000}">${failure}</testcase>`,
    );
  }
  await client.close();
  const about = { spool: join(folder, 'untold'), run: 'untold', report: 'checkout.xml', cases };
  expect(await reportAfterwards(server.address, about)).toBeLessThan(300);
  const { body } = await json<{ runs: { id: string; name: string }[] }>('GET', `${server.address}/api/runs?limit=50`);
  const run = body.runs.find(({ name }) => name.startsWith('checkout'))!;
  const attempts = await attemptsOf(run.name);
  expect(attempts.map(({ test, outcome }) => [test.title, outcome])).toEqual([
    ['is told the fare', 'failed'],
    ['pays by card', 'passed'],
  ]);
  const [failed] = attempts;
  await ready(server.address, failed!.id);
  expect(labels(await eventsOf(failed!.id)).filter((one) => one.startsWith('Press on'))).toHaveLength(3);
  const known = await json<{ told: { by: string; why: string } }>(
    'GET',
    `${server.address}/api/attempts/${failed!.id}/told`,
  );
  expect(known.body.told).toMatchObject({
    by: 'checkout.xml',
    why: expect.stringContaining('that the report tells of it'),
  });

  // It is corrected: what was told goes from one to the other, or to nobody who was recorded.
  const say = (attemptId: string | null) =>
    json<{ other: string }>('POST', `${server.address}/api/attempts/${failed!.id}/told`, { attemptId });
  expect((await say(attempts[1]!.id)).status).toBe(200);
  const outcomes = async () => new Map((await attemptsOf(run.name)).map(({ id, outcome }) => [id, outcome]));
  expect((await outcomes()).get(failed!.id)).toBe('passed');
  const { other } = (await say(null)).body;
  expect(await outcomes()).toEqual(
    new Map([
      [failed!.id, 'unreported'],
      [attempts[1]!.id, 'failed'],
      [other, 'passed'],
    ]),
  );
  expect((await say(null)).status).toBe(409);
});

it('a reporter that streams its tests has what the browser recorded of each, and gives back what is of another', async () => {
  const client = overPipe(told('streamed'));
  const ids: string[] = [];
  for (const title of ['pays by card', 'pays once more']) {
    const startedAt = Date.now();
    await pays(client, true, 'wave-4711-crest');
    const test = { suite: 'checkout', title };
    const { body } = await json<{ id: string }>('POST', `${server.address}/api/attempts`, {
      run: 'a streaming runner',
      test,
      startedAt,
    });
    ids.push(body.id);
    await json('POST', `${server.address}/api/attempts/${body.id}/outcome`, {
      status: 'passed',
      durationMs: Date.now() - startedAt,
    });
  }
  await client.close();
  interface Told {
    labels: { told?: { recording?: string; why: string } };
  }
  const views = await eventually(
    async () => {
      await deliver(join(folder, 'streamed'));
      return Promise.all(
        ids.map(async (id) => (await json<AttemptView & Told>('GET', `${server.address}/api/attempts/${id}`)).body),
      );
    },
    (list) => list.every(({ labels: { told: by }, state }) => by !== undefined && state === 'ready'),
    40_000,
  );
  const recordings = views.map((one) => one.labels.told!.recording);
  expect(new Set(recordings).size).toBe(2);
  for (const id of ids) expect(labels(await eventsOf(id)).filter((one) => one.startsWith('Press on'))).toHaveLength(3);
  expect(await attemptsOf('streamed')).toHaveLength(2);

  const given = await json('POST', `${server.address}/api/attempts/${ids[0]!}/told`, { attemptId: null });
  expect(given).toMatchObject({ status: 200, body: { other: recordings[0] } });
  await ready(server.address, ids[0]!);
  expect((await eventsOf(ids[0]!)).filter(({ lane }) => lane === 'element')).toEqual([]);
});

it('a test that fails now and then is given its cause as through the endpoint, and its drill replays', async () => {
  const { fault, title, cause } = faultyTests.find((one) => one.fault === 'notice-over-button')!;
  const test = ferryTests.find((one) => one.title === title)!;
  const client = overPipe(told('causes'));
  const cases: string[] = [];
  for (let number = 1; number <= 4; number++) {
    site.visits.plan(8800 + number, [fault], number % 2);
    cases.push(await playedAsCase(client, test, site.address));
  }
  await client.close();
  const about = { spool: join(folder, 'causes'), run: 'causes', report: 'causes of it.xml', cases };
  expect(await reportAfterwards(server.address, about)).toBeLessThan(300);
  const attempts = await eventually(
    () => attemptsOfRun(server.address, (name) => name.startsWith('causes of it')),
    (list) => list.length === 4,
  );
  const views = await Promise.all(attempts.map(({ id }) => ready(server.address, id)));
  const failed = views.filter(({ outcome }) => outcome === 'failed');
  expect(failed.length).toBeGreaterThanOrEqual(1);
  for (const { failure, leading } of failed) {
    expect(failure!.sentence).toMatch(/^Press on “.+” would have landed on .+, which lay over it$/);
    expect(leading?.cause).toBe(cause);
  }
  const passed = views.find(({ outcome }) => outcome === 'passed')!;
  expect(await playedAgain(passed.id)).toMatchObject({ done: 2, failed: 0 });
});

it('without an Iskel the browser runs all the same, and what was recorded is delivered later', async () => {
  const spool = join(folder, 'later');
  const client = overPipe({ ...told('later'), ISKEL_URL: 'http://127.0.0.1:1' });
  await pays(client, true, 'wave-4711-crest');
  expect(await client.close()).toEqual({ code: 0, signal: null });
  expect(readyIn(spool)).toHaveLength(1);
  const told1 = spawnSync(
    process.execPath,
    [...program('src/cli/main.ts'), 'deliver', '--spool', spool, '--server', server.address],
    { encoding: 'utf8' },
  );
  expect(told1.stdout).toBe('1 attempt taken in\n');
  expect(await attemptsOf('later')).toHaveLength(1);
  expect(await deliver(spool)).toEqual({ delivered: 0, left: [] });
});

describe('a browser', () => {
  /** Stands for Chromium: says what it was given, and ends as its arguments say. */
  const fake = (): string => {
    const path = join(folder, 'fake-browser');
    writeFileSync(
      path,
      `#!/bin/sh\nfor one in "$@"; do case "$one" in --says=*) echo "\${one#--says=}" >&2;; --ends=*) exit "\${one#--ends=}";; --dies=*) kill -"\${one#--dies=}" $$;; esac; done\n`,
    );
    chmodSync(path, 0o755);
    return path;
  };
  const run = (...args: string[]) =>
    spawnSync(standIn, args, {
      encoding: 'utf8',
      env: { ...process.env, ...told('fake'), ISKEL_CHROMIUM: fake() },
      stdio: ['ignore', 'pipe', 'pipe', 'pipe', 'pipe'],
    });

  it('ends for its client as it ended: code, signal and what it said', () => {
    expect(run('--says=hello there', '--ends=7')).toMatchObject({ status: 7, stderr: 'hello there\n' });
    expect(run('--remote-debugging-pipe', '--says=hello there', '--ends=9')).toMatchObject({
      status: 9,
      stderr: 'hello there\n',
    });
    expect(run('--remote-debugging-pipe', '--dies=TERM')).toMatchObject({ status: null, signal: 'SIGTERM' });
  });

  it('that is nowhere is told in words', () => {
    const gone = spawnSync(process.execPath, [standIn, '--remote-debugging-pipe'], {
      encoding: 'utf8',
      env: { ...process.env, ISKEL_CHROMIUM: '', PATH: '/nowhere' },
    });
    expect(gone.status).toBe(127);
    expect(gone.stderr).toContain('ISKEL_CHROMIUM');
  });

  it.each(['pipe', 'port'] as const)('ends when who stands in for it is killed, over the %s', async (over) => {
    const client = over === 'pipe' ? overPipe(told('killed')) : await overPort(told('killed'));
    await client.send('Browser.getVersion');
    const mine = (): string[] =>
      spawnSync('pgrep', ['-f', '--', `--user-data-dir=${client.profile}`], { encoding: 'utf8' })
        .stdout.split('\n')
        .filter(Boolean);
    expect(mine().length).toBeGreaterThan(1);
    client.child.kill('SIGKILL');
    await eventually(mine, (left) => left.length === 0, 10_000);
  });
});
