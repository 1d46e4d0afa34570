import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { chromeArguments, json, ready, startServerProcess, type AttemptView, type ServerProcess } from './helpers.ts';

let server: ServerProcess;
let site: FerrySite;

beforeAll(async () => {
  server = await startServerProcess({ env: { ISKEL_IDLE_SECONDS: '30' } });
  site = await startFerrySite();
});
afterAll(async () => {
  await server.stop();
  await site.close();
});

const open = (attempt?: object): Promise<WebDriver> =>
  WebDriver.open(`${server.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    ...(attempt ? { 'iskel:attempt': attempt } : {}),
  });
const evidence = async (id: string): Promise<EvidenceEvent[]> =>
  (await json<{ events: EvidenceEvent[] }>('GET', `${server.address}/api/attempts/${id}/events?limit=10000`)).body
    .events;
const lane = <L extends EvidenceEvent['lane']>(events: EvidenceEvent[], name: L) =>
  events.filter((event): event is Extract<EvidenceEvent, { lane: L }> => event.lane === name);

describe('a recorded session', () => {
  let events: EvidenceEvent[];
  let view: AttemptView;

  beforeAll(async () => {
    const driver = await open({
      run: 'recording',
      test: { suite: 'holds', title: 'holds a seat', file: 'holds.ts' },
      number: 2,
      tags: ['smoke'],
      labels: { host: 'ci' },
      commit: 'abc',
    });
    await driver.open(`${site.address}/sailings/l-2130`);
    await (await driver.find('#passenger')).type('Mert');
    await (await driver.find('#hold')).click();
    await new Promise((done) => setTimeout(done, 400));
    await (await driver.link('Go to checkout')).click();
    await (await driver.find('#code')).type('made-up passphrase');
    await driver.send('POST', '/execute/sync', {
      script: 'console.error("a made-up trouble"); setTimeout(() => { throw new Error("thrown by the page") }, 0)',
      args: [],
    });
    await driver.send('POST', '/execute/sync', { script: 'alert("made-up notice")', args: [] });
    await driver.send('POST', '/alert/accept');
    await driver.screenshot();
    await driver.note({ kind: 'check', label: 'it holds', ok: true, expected: '1', actual: '1' });
    await driver.outcome('passed');
    await driver.quit();
    view = await ready(server.address, driver.attempt);
    events = await evidence(view.id);
  });

  it('has the name, number and outcome the test gave it', () => {
    expect(view).toMatchObject({ test: { suite: 'holds', title: 'holds a seat' }, number: 2, outcome: 'passed' });
  });

  it('tells every command in order, with durations', () => {
    const steps = lane(events, 'step').filter((step) => step.kind === 'command');
    expect(steps.map((step) => step.data.command).slice(0, 5)).toEqual([
      'navigate to',
      'find element',
      'element send keys',
      'find element',
      'element click',
    ]);
    for (const step of steps) expect(step.until!).toBeGreaterThanOrEqual(step.at);
    expect(steps.find((step) => step.data.action === 'press')!.data.label).toBe('Press on “Hold seat”');
  });

  it('tells the requests, which are the application’s own, and how long they took', () => {
    const requests = lane(events, 'network');
    const fare = requests.find((request) => request.data.url.includes('/api/fare/'))!;
    expect(fare.data).toMatchObject({ own: true, status: 200, method: 'GET' });
    expect(fare.until! - fare.at).toBeGreaterThan(20);
    expect(requests.find((request) => request.data.url.startsWith(site.weather))!.data.own).toBe(false);
  });

  it('tells console lines and exceptions with their levels', () => {
    const lines = lane(events, 'console');
    expect(lines.find((line) => line.data.text.includes('made-up trouble'))!.data.level).toBe('error');
    expect(lines.find((line) => line.kind === 'exception')!.data.text).toContain('thrown by the page');
  });

  it('tells navigations, dialogs, presses and pictures', () => {
    const kinds = new Set(events.map((event) => `${event.lane} ${event.kind}`));
    for (const kind of [
      'page navigation-started',
      'page dom-ready',
      'page loaded',
      'page press',
      'page held-value',
      'window dialog-opened',
      'window dialog-closed',
      'screen frame',
      'screen screenshot',
      'note check',
    ]) {
      expect(kinds, kind).toContain(kind);
    }
  });

  it('finds the silence of the test as a fixed sleep', () => {
    // On a machine that is busy otherwise there may be shorter silences besides.
    const pauses = lane(events, 'step').filter((step) => step.kind === 'pause');
    const longest = Math.max(...pauses.map((pause) => pause.until! - pause.at));
    expect(longest).toBeGreaterThan(380);
    expect(longest).toBeLessThan(2000);
  });

  it('never stores what went into a password field', () => {
    const typed = lane(events, 'step').find(
      (step) => step.data.action === 'type' && step.data.locator?.value === '#code',
    )!;
    expect(typed.data.input).toBe('«masked»');
    expect(JSON.stringify(events)).not.toContain('made-up passphrase');
    const name = lane(events, 'step').find(
      (step) => step.data.action === 'type' && step.data.locator?.value === '#passenger',
    )!;
    expect(name.data.input).toBe('Mert');
  });

  it('pages through the events without losing one', async () => {
    const got: EvidenceEvent[] = [];
    let after: string | null = '';
    while (after !== null) {
      const { body }: { body: { events: EvidenceEvent[]; after: string | null } } = await json(
        'GET',
        `${server.address}/api/attempts/${view.id}/events?limit=7${after ? `&after=${encodeURIComponent(after)}` : ''}`,
      );
      got.push(...body.events);
      after = body.after;
    }
    expect(got).toEqual(events);
  });

  it('is restored whole from its pack', async () => {
    const pack = Buffer.from(await (await fetch(`${server.address}/api/attempts/${view.id}/pack`)).arrayBuffer());
    const { readPack } = await import('../src/core/formats/pack.ts');
    const restored = readPack(pack);
    expect(restored.attempt).toMatchObject({ test: { title: 'holds a seat' }, number: 2, outcome: 'passed' });
    expect(restored.events.length).toBe(events.filter((event) => !/^[wpsi]:/.test(event.id)).length);
    expect(restored.blobs.size).toBeGreaterThan(1);
  });
});

it('finds declared secrets nowhere in the data folder', async () => {
  const secret = 'lantern-harbour-4711';
  const driver = await open({ run: 'secrets', secrets: [secret] });
  await driver.open(`${site.address}/?q=${secret}`);
  await (await driver.find('#port')).type(secret);
  await driver.send('POST', '/execute/sync', {
    script: `console.log("${secret}"); document.title = "${secret}"; fetch("/api/ports?q=${secret}", { headers: { authorization: "Bearer ${secret}" } }); document.body.append("${secret}")`,
    args: [],
  });
  await driver.find('body');
  await new Promise((done) => setTimeout(done, 400));
  await driver.note({ kind: 'check', label: secret, ok: false, expected: secret, actual: 'x' });
  await driver.outcome('failed', `expected "${secret}" but got "x"`, `at ${secret}`);
  await driver.quit();
  await ready(server.address, driver.attempt);
  await json('POST', `${server.address}/api/attempts/${driver.attempt}/outcome`, {
    status: 'failed',
    message: `again ${secret}`,
  });
  await ready(server.address, driver.attempt);
  const files = (folder: string): string[] =>
    readdirSync(folder).flatMap((name) =>
      statSync(join(folder, name)).isDirectory() ? files(join(folder, name)) : [join(folder, name)],
    );
  const holding = files(server.data).filter((file) => readFileSync(file).includes(secret));
  expect(holding).toEqual([]);
  expect(JSON.stringify(await evidence(driver.attempt))).toContain('«masked»');
});

describe('outcomes', () => {
  it('an attempt nobody tells of is unreported, named after what it opened, and takes its outcome later', async () => {
    const driver = await open();
    await driver.open(`${site.address}/sailings`);
    await driver.quit();
    const view = await ready(server.address, driver.attempt);
    expect(view.outcome).toBe('unreported');
    expect(view.test.title).toContain('/sailings at ');
    const told = await json('POST', `${server.address}/api/attempts/${view.id}/outcome`, {
      status: 'failed',
      message: 'expected "a" but got "b"',
      stack: '',
    });
    expect(told.status).toBe(200);
    const again = await ready(server.address, view.id);
    expect(again.outcome).toBe('failed');
    expect(again.failure!.sentence).toContain('“b” where “a” was expected');
  });

  it('refuses an outcome it does not know, in the form of each base', async () => {
    const driver = await open();
    await expect(driver.outcome('brilliant')).rejects.toThrow(/must be one of passed, failed/);
    await driver.quit();
    const answer = await json<{ error: { code: string } }>(
      'POST',
      `${server.address}/api/attempts/${driver.attempt}/outcome`,
      { status: 'brilliant' },
    );
    expect(answer).toMatchObject({ status: 400, body: { error: { code: 'wrong-body' } } });
  });
});

it('eight sessions at once keep their events apart', async () => {
  const names = Array.from({ length: 8 }, (_, i) => `Passenger number ${i + 1}`);
  const ids = await Promise.all(
    names.map(async (name, i) => {
      const driver = await open({ run: 'eight', test: { suite: 'eight', title: name } });
      await driver.open(`${site.address}/sailings/l-2130`);
      for (let round = 0; round < 5; round++) {
        const field = await driver.find('#passenger');
        await field.clear();
        await field.type(name);
        await driver.send('POST', '/execute/sync', {
          script: `console.log("mine: ${name}"); return fetch("/api/ports?q=${i}").then(() => 1)`,
          args: [],
        });
      }
      await driver.outcome('passed');
      await driver.quit();
      return driver.attempt;
    }),
  );
  expect(new Set(ids).size).toBe(8);
  for (const [i, id] of ids.entries()) {
    const view = await ready(server.address, id);
    expect(view.outcome).toBe('passed');
    const events = await evidence(id);
    const text = JSON.stringify(events);
    for (const other of names) expect(text.includes(other), `${other} in ${names[i]}`).toBe(other === names[i]);
    expect(lane(events, 'console').filter((line) => line.data.text === `mine: ${names[i]}`)).toHaveLength(5);
    expect(lane(events, 'network').filter((request) => request.data.url.endsWith(`/api/ports?q=${i}`))).toHaveLength(5);
    expect(lane(events, 'step').filter((step) => step.data.action === 'type')).toHaveLength(5);
  }
}, 120_000);

describe('an attempt of a test that ran before', () => {
  const attempt = async (waitMs: number, withHold = true): Promise<EvidenceEvent[]> => {
    const driver = await open({ run: 'again', test: { suite: 'holds', title: 'waits, then holds' } });
    await driver.open(`${site.address}/sailings/l-2130`);
    await (await driver.find('#passenger')).type('Mert');
    await new Promise((done) => setTimeout(done, waitMs));
    if (withHold) await (await driver.find('#hold')).click();
    await driver.outcome('passed');
    await driver.quit();
    await ready(server.address, driver.attempt);
    return evidence(driver.attempt);
  };
  const hold = (events: EvidenceEvent[]) =>
    lane(events, 'element').filter(({ data, kind }) => data.locator === 'css=#hold' && kind !== 'absent');
  const asked = (events: EvidenceEvent[]) =>
    lane(events, 'step').find(({ data }) => data.locator?.value === '#hold')!.at;

  it('has every element it looks for watched from the start, not from its first use on', async () => {
    const first = await attempt(500);
    expect(hold(first)[0]!.at).toBeGreaterThan(asked(first) - 50);
    const second = await attempt(500);
    expect(hold(second)[0]!.at).toBeLessThan(asked(second) - 300);
    // What this attempt does not look for is not told of.
    expect(hold(await attempt(200, false))).toEqual([]);
  });
});
