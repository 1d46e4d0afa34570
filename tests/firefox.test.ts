import WebSocket from 'ws';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import { processesMarked } from '../src/browser/sweep.mjs';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { eventually, json, markOf, ready, startServerProcess, type ServerProcess } from './helpers.ts';
import { play, type Answer } from './wire-play.ts';
import { wirePage } from './wire-page.ts';
import { script } from './wire-script.ts';

/** Real sessions in Firefox, by its own BiDi, through our classic front. */

let server: ServerProcess;
let site: FerrySite;

beforeAll(async () => {
  site = await startFerrySite();
  server = await startServerProcess();
});
afterAll(async () => {
  await server.stop();
  await site.close();
});

/** What kind of thing an answer is: its error, or the shape of its value. */
function shapeOf({ status, body }: Answer): string {
  let value: unknown;
  try {
    ({ value } = JSON.parse(body) as { value: unknown });
  } catch {
    return `${status} text`;
  }
  if (value === null || typeof value !== 'object') return `${status} ${value === null ? 'null' : typeof value}`;
  if (Array.isArray(value)) return `${status} list of ${value.length}`;
  const { error } = value as { error?: string };
  return `${status} ${error ?? Object.keys(value).sort().join()}`;
}

/** Commands whose answer differs from Chromium's by more than its words, and why. */
const differences: [call: RegExp, why: string][] = [
  [/^POST \/goog\/cdp\//, 'Chromium’s own debugging commands: a Firefox has none'],
  [/^GET \/se\/log\/types/, 'logs are no part of the specification; here they are evidence'],
];

describe('the classic front of Firefox', () => {
  it('answers every command of the wire script in the shape of the specification, as Chromium’s driver does', async () => {
    const page = await wirePage();
    try {
      const calls = script(page.address);
      const chromium = await play(`${server.address}/wd`, calls);
      const firefox = await play(`${server.address}/wd`, calls, {}, { browserName: 'firefox' });
      const other = chromium.flatMap((one, i) => {
        const known = differences.some(([call]) => call.test(one.call));
        const ours = firefox[i]!;
        return known || shapeOf(one) === shapeOf(ours) ? [] : [`${one.call}: ${shapeOf(one)}, here ${shapeOf(ours)}`];
      });
      expect(other).toEqual([]);
      expect(firefox.filter(({ type }) => type !== 'application/json; charset=utf-8')).toEqual([]);
      for (const [call] of differences) expect(firefox.find((one) => call.test(one.call))?.status).toBe(404);
    } finally {
      page.close();
    }
  }, 180_000);
});

const open = (more: Record<string, unknown> = {}): Promise<WebDriver> =>
  WebDriver.open(`${server.address}/wd`, { browserName: 'firefox', ...more });

async function eventsOf(id: string): Promise<EvidenceEvent[]> {
  const { body } = await json<{ events: EvidenceEvent[] }>(
    'GET',
    `${server.address}/api/attempts/${id}/events?limit=10000`,
  );
  return body.events;
}

describe('a recorded session in Firefox', () => {
  let events: EvidenceEvent[];
  let id: string;
  beforeAll(async () => {
    const driver = await open({ 'iskel:attempt': { run: 'f', test: { title: 'holds a seat' } } });
    id = driver.attempt;
    await driver.open(`${site.address}/sailings/e-1840`);
    await driver.implicit(3000);
    await (await driver.find('#passenger')).type('Deniz');
    await (await driver.find('[data-seat="2A"]')).click();
    await (await driver.find('#hold')).click();
    await driver.find('.reference, #pay, h1');
    await driver.run('console.warn("fare cache cold"); return 1');
    await driver.outcome('passed');
    await driver.quit();
    expect((await ready(server.address, id)).outcome).toBe('passed');
    events = await eventsOf(id);
  }, 60_000);

  it('has steps, requests with their bodies, console lines, lifelines and pictures, as in Chromium', () => {
    const lanes = new Set(events.map(({ lane }) => lane));
    for (const lane of ['step', 'network', 'body', 'console', 'element', 'page', 'screen', 'window'] as const)
      expect(lanes, lane).toContain(lane);
    const fare = events.find((event) => event.lane === 'network' && event.data.url.includes('/api/fare/'));
    expect(fare?.data).toMatchObject({ status: 200, own: true });
    const body = events.find((event) => event.lane === 'body' && event.data.exchange === fare?.id);
    expect(body?.data).toMatchObject({ of: 'response', text: expect.stringContaining('"fare"') as string });
    const sent = events.find((event) => event.lane === 'body' && event.data.of === 'request');
    expect(sent?.data).toMatchObject({ text: expect.stringContaining('Deniz') as string });
    expect(events.some((event) => event.lane === 'console' && event.data.text === 'fare cache cold')).toBe(true);
  });

  it('every step carries the window it spoke to', () => {
    const steps = events.flatMap((event) => (event.lane === 'step' && event.kind === 'command' ? [event] : []));
    const windows = new Set(steps.map(({ data }) => data.window));
    expect(windows.size).toBe(1);
    expect([...windows][0]).toBeTruthy();
  });

  it('is named by its engine', async () => {
    const { body } = await json<{ environment: { browser: string; version: string } }>(
      'GET',
      `${server.address}/api/attempts/${id}`,
    );
    expect(body.environment).toMatchObject({ browser: 'firefox', version: expect.stringMatching(/^\d+\./) as string });
  });
});

it('a client’s own BiDi socket hears what it asked for and nothing of ours', async () => {
  const driver = await open({ webSocketUrl: true });
  const socket = new WebSocket(String(driver.capabilities.webSocketUrl));
  const heard: { id?: number; type?: string; method?: string; result?: unknown; error?: string }[] = [];
  socket.on('message', (data: Buffer) => heard.push(JSON.parse(data.toString()) as object));
  await new Promise((done) => socket.once('open', done));
  const ask = async (id: number, method: string, params: object): Promise<(typeof heard)[number]> => {
    socket.send(JSON.stringify({ id, method, params }));
    return (await eventually(
      () => heard.find((one) => one.id === id),
      (one) => one !== undefined,
    ))!;
  };
  expect(await ask(1, 'session.subscribe', { events: ['browsingContext.load'] })).toMatchObject({ type: 'success' });
  expect(await ask(2, 'no.such', {})).toMatchObject({ type: 'error', error: 'unknown command' });
  await driver.open(`${site.address}/`);
  await eventually(
    () => heard.some(({ method }) => method === 'browsingContext.load'),
    (there) => there,
  );
  expect(new Set(heard.flatMap(({ method }) => method ?? []))).toEqual(new Set(['browsingContext.load']));
  socket.close();
  await driver.quit();
}, 40_000);

it('a browser that is killed costs its own session, which says so', async () => {
  const driver = await open({ 'iskel:attempt': { run: 'f', test: { title: 'is killed' } } });
  await driver.open(`${site.address}/`);
  for (const pid of processesMarked(markOf(server.data)))
    try {
      const { readFileSync } = await import('node:fs');
      if (/firefox/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'))) process.kill(pid, 'SIGKILL');
    } catch {
      // gone already
    }
  const answer = await json<{ value: { error?: string } }>(
    'GET',
    `${server.address}/wd/session/${driver.session}/title`,
  );
  expect(answer.status).toBe(404);
  expect(answer.body.value.error).toBe('invalid session id');
  expect((await ready(server.address, driver.attempt)).outcome).toBe('interrupted');
}, 40_000);

it('options that would start other programs or profiles are refused in words', async () => {
  for (const options of [{ binary: '/bin/sh' }, { profile: 'UEsDB' }, { args: ['--profile', '/tmp'] }]) {
    const { status, body } = await json<{ value: { error: string; message: string } }>(
      'POST',
      `${server.address}/wd/session`,
      {
        capabilities: { alwaysMatch: { browserName: 'firefox', 'moz:firefoxOptions': options } },
      },
    );
    expect(status).toBe(400);
    expect(body.value).toMatchObject({ error: 'invalid argument' });
  }
});
