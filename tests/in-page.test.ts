import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { deliver } from '../src/browser/devtools/deliver.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { openPage, overPipe } from './devtools-client.ts';
import {
  attemptsOfRun,
  commandLabels,
  evidenceOf,
  eventually,
  json,
  ready,
  startServerProcess,
  type AttemptView,
  type ServerProcess,
} from './helpers.ts';

/** Tests that run inside the page, beside the application in a frame, through `iskel browser`. */

let server: ServerProcess;
let site: FerrySite;
let front: Server;
let origin: string;
let spool: string;

/** Two tests one after the other, as a runner inside the page has them: they dispatch events. */
const runner = `<!doctype html><title>runner</title><body><script type="module">
  const frame = document.createElement('iframe');
  frame.style = 'width:1000px;height:600px';
  document.body.append(frame);
  const until = async (what) => { for (let i = 0; i < 200; i++) { const got = what(); if (got) return got; await new Promise((done) => setTimeout(done, 25)); } throw new Error('never came'); };
  const set = (el, value) => { el.value = value; el.dispatchEvent(new Event('input', { bubbles: true })); el.dispatchEvent(new Event('change', { bubbles: true })); };
  window.results = [];
  const open = async (address) => {
    frame.src = address;
    await new Promise((done) => (frame.onload = done));
    return frame.contentDocument;
  };
  const tests = {
    'pays by card': async () => {
      const hold = await (await fetch('/api/holds', { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ sailing: 'KZ-0930', seat: '2A', name: 'Ece', extras: [] }) })).json();
      const page = await open('/checkout/' + hold.id);
      const card = await until(() => page.querySelector('#card'));
      card.click();
      set(card, '4000 12');
      set(card, '4000 1234');
      set(page.querySelector('#code'), 'wave-4711-crest');
      page.querySelector('#pay button').click();
      await until(() => !page.querySelector('#paid').hidden);
    },
    'chooses a seat': async () => {
      const page = await open('/sailings/m-0710');
      set(await until(() => page.querySelector('#passenger')), 'Deniz');
      const seat = await until(() => page.querySelector('[data-seat="3B"]'));
      seat.click();
      await until(() => seat.getAttribute('aria-pressed') === 'true');
    },
  };
  for (const [title, run] of Object.entries(tests)) {
    const from = Date.now();
    await run();
    window.results.push({ title, from, until: Date.now() });
    await new Promise((done) => setTimeout(done, 400));
  }
  window.done = true;
</script>`;

beforeAll(async () => {
  [server, site] = await Promise.all([startServerProcess(), startFerrySite()]);
  spool = mkdtempSync(join(tmpdir(), 'iskel-in-page-'));
  // The runner's page is of the same origin as the application.
  front = createServer((request, response) => {
    if (request.url === '/runner') return void response.writeHead(200, { 'content-type': 'text/html' }).end(runner);
    const chunks: Buffer[] = [];
    request.on('data', (chunk: Buffer) => chunks.push(chunk));
    request.on('end', () => {
      const body = chunks.length ? { body: Buffer.concat(chunks) } : {};
      const { 'content-type': type } = request.headers;
      fetch(`${site.address}${request.url}`, {
        method: request.method ?? 'GET',
        headers: type ? { 'content-type': type } : {},
        ...body,
      }).then(
        async (answer) => {
          response.writeHead(answer.status, { 'content-type': answer.headers.get('content-type') ?? 'text/plain' });
          response.end(Buffer.from(await answer.arrayBuffer()));
        },
        () => response.destroy(),
      );
    });
  });
  await new Promise<void>((done) => front.listen(0, '127.0.0.1', done));
  origin = `http://127.0.0.1:${(front.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await server.stop();
  await site.close();
  front.closeAllConnections();
  front.close();
  rmSync(spool, { recursive: true, force: true });
});

const attemptsOf = (run: string): Promise<AttemptView[]> =>
  attemptsOfRun(server.address, (name) => name.startsWith(run));
const eventsOf = (id: string): Promise<EvidenceEvent[]> => evidenceOf(server.address, id);
const labels = commandLabels;

it('what they dispatch is their steps, each gets its part by the report, and its drill replays', async () => {
  const client = overPipe({ ISKEL_URL: server.address, ISKEL_SPOOL: spool, ISKEL_RUN: 'in the page' });
  const page = await openPage(client, true);
  await page.open(`${origin}/runner`);
  await page.until('window.done');
  const { result } = await page.tell<{ result: { value: string } }>('Runtime.evaluate', {
    expression: 'JSON.stringify(window.results)',
    returnByValue: true,
  });
  await page.close();
  await client.close();
  const results = JSON.parse(result.value) as { title: string; from: number; until: number }[];
  expect(results).toHaveLength(2);
  const [whole] = await eventually(
    async () => {
      await deliver(spool);
      return attemptsOf('in the page');
    },
    (list) => list.length === 1,
  );
  await ready(server.address, whole!.id);
  const steps = labels(await eventsOf(whole!.id));
  expect(steps.filter((one) => one.startsWith('Press on'))).toHaveLength(3);

  const report = `<testsuite name="ferry">${results
    .map(
      ({ title, from, until }) =>
        `<testcase classname="checkout" name="${title}" timestamp="${new Date(from).toISOString()}" time="${(until - from) / 1000}"/>`,
    )
    .join('')}</testsuite>`;
  const form = new FormData();
  form.append('file', new Blob([report]), 'cards.xml');
  expect((await fetch(`${server.address}/api/intake`, { method: 'POST', body: form })).status).toBeLessThan(300);
  const attempts = await eventually(
    () => attemptsOf('cards'),
    (list) => list.length === 2,
  );
  const did = {
    'pays by card': [/^Open \/checkout\//, 2, 2],
    'chooses a seat': [/^Open \/sailings\/m-0710$/, 1, 1],
  } as const;
  for (const { id, outcome, test } of attempts) {
    expect(outcome).toBe('passed');
    await ready(server.address, id);
    const events = await eventsOf(id);
    const own = labels(events);
    const [open, presses, typed] = did[test.title as keyof typeof did];
    expect(own.filter((one) => open.test(one))).toHaveLength(1);
    expect(own.filter((one) => one.startsWith('Press on'))).toHaveLength(presses);
    expect(own.filter((one) => one.startsWith('Type'))).toHaveLength(typed);
    expect(events.some((one) => one.lane === 'network' && one.data.status === 200)).toBe(true);
    expect(JSON.stringify(events)).not.toContain('4711-crest');
  }

  const seat = attempts.find(({ test }) => test.title === 'chooses a seat')!;
  const made = await json<{ id: string; text: string }>('POST', `${server.address}/api/drills`, { attemptId: seat.id });
  expect(made.body.text).toContain('type "Deniz"');
  const { body: series } = await json<{ id: string }>('POST', `${server.address}/api/series`, {
    drillId: made.body.id,
    trials: 1,
  });
  const ended = await eventually(
    async () =>
      (await json<{ state: string; trials: { outcome: string }[] }>('GET', `${server.address}/api/series/${series.id}`))
        .body,
    ({ state }) => state !== 'waiting' && state !== 'running',
    60_000,
  );
  expect(ended.trials.map(({ outcome }) => outcome)).toEqual(['passed']);
});
