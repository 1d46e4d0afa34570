// How many trials a minute a series plays, against a bare loop of the same steps by plain WebDriver without any evidence,
// each in an isolated context, in turn; and what three places bring against one.
// Run: npm run bench:trials [rounds]
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebSocket } from 'ws';
import { startFerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import { startDriver, type DriverProcess } from '../src/browser/driver-process.ts';
import { chromiumBy } from '../src/browser/engines.ts';
import { Owner } from '../src/browser/owner.ts';
import type { Detail } from '../src/core/records.ts';
import { median } from '../src/core/stats/median.ts';
import { chromeArguments, eventually, json, ready, startServerProcess } from '../tests/helpers.ts';

const rounds = Number(process.argv[2]) || 4;
const each = 15;

const home = mkdtempSync(join(tmpdir(), 'iskel-trials-'));
const owner = await Owner.start(home);
const drivers = await Promise.all(
  [1, 2, 3].map(async () => (await startDriver(chromiumBy('chromedriver', ''), owner)) as DriverProcess),
);
const settings = join(home, 'settings.json');
const capabilities = { 'goog:chromeOptions': { args: chromeArguments } };
writeFileSync(
  settings,
  JSON.stringify({
    places: drivers.slice(1).map(({ base }, i) => ({
      name: `yard-${i + 2}`,
      address: base,
      socket: true,
      capabilities,
    })),
  }),
);
const server = await startServerProcess({ env: { ISKEL_SETTINGS: settings } });
const site = await startFerrySite();

/** What the test does: opens, reads, types, chooses a seat, looks. */
async function steps(driver: WebDriver): Promise<void> {
  await driver.open(`${site.address}/sailings/m-0710`);
  await (await driver.find('h1')).text();
  await (await driver.find('#passenger')).type('Deniz');
  for (const seat of ['2A', '3B', '4C']) {
    const button = await driver.find(`[data-seat="${seat}"]`);
    await button.click();
    await button.attribute('aria-pressed');
  }
  await (await driver.find('.legend')).text();
}

async function drillOf(): Promise<string> {
  const driver = await WebDriver.open(`${server.address}/wd`, {
    browserName: 'chrome',
    ...capabilities,
    'iskel:attempt': { run: 'trials', test: { suite: 'seats', title: 'chooses three seats' } },
  });
  await steps(driver);
  await driver.outcome('passed');
  await driver.quit();
  await ready(server.address, driver.attempt);
  const made = await json<{ id: string }>('POST', `${server.address}/api/drills`, { attemptId: driver.attempt });
  const { body } = await json<{ text: string }>('GET', `${server.address}/api/drills/${made.body.id}`);
  // A drill keeps how long its test was silent between commands, and a first session is slow: the bare loop never waits.
  const text = body.text.replaceAll(/^pause .*\n/gm, '');
  return (await json<{ id: string }>('POST', `${server.address}/api/drills`, { text })).body.id;
}

/** The steps again and again by plain WebDriver, each time in a context of its own. @returns ms each */
async function bare(): Promise<number> {
  const driver = await WebDriver.open(drivers[0]!.base, {
    browserName: 'chrome',
    webSocketUrl: true,
    ...capabilities,
  });
  const socket = new WebSocket(driver.capabilities.webSocketUrl as string);
  await new Promise((done) => socket.once('open', done));
  const answers = new Map<number, (result: unknown) => void>();
  socket.on('message', (data: Buffer) => {
    const { id, result } = JSON.parse(data.toString()) as { id?: number; result: unknown };
    if (id !== undefined) answers.get(id)?.(result);
  });
  let count = 0;
  const ask = <T>(method: string, params: object): Promise<T> => {
    const id = ++count;
    socket.send(JSON.stringify({ id, method, params }));
    return new Promise((done) => answers.set(id, done as (result: unknown) => void));
  };
  const home = await driver.send<string>('GET', '/window');
  const once = async (): Promise<void> => {
    const { userContext } = await ask<{ userContext: string }>('browser.createUserContext', {});
    const { context } = await ask<{ context: string }>('browsingContext.create', { type: 'window', userContext });
    await driver.send('POST', '/window', { handle: context });
    await steps(driver);
    await driver.send('POST', '/window', { handle: home });
    await ask('browser.removeUserContext', { userContext });
  };
  await once();
  const from = performance.now();
  for (let i = 1; i < each; i++) await once();
  const took = (performance.now() - from) / (each - 1);
  socket.close();
  await driver.quit();
  return took;
}

interface View {
  state: string;
  failed: number;
  otherFailures: number;
  done: number;
  trials: { id: string; number: number }[];
}

async function played(body: object): Promise<{ view: View; starts: number[]; ends: number[] }> {
  const { id } = (await json<{ id: string }>('POST', `${server.address}/api/series`, body)).body;
  const view = await eventually(
    async () => (await json<View>('GET', `${server.address}/api/series/${id}`)).body,
    ({ state }) => state !== 'waiting' && state !== 'running',
    300_000,
  );
  if (view.state !== 'done' || view.failed + view.otherFailures)
    throw new Error(`a series ended ${view.state}, with failures`);
  const attempts = await Promise.all(
    view.trials.map(
      async (trial) =>
        (await json<{ startedAt: number; durationMs: number }>('GET', `${server.address}/api/attempts/${trial.id}`))
          .body,
    ),
  );
  return {
    view,
    starts: attempts.map(({ startedAt }) => startedAt).sort((a, b) => a - b),
    ends: attempts.map(({ startedAt, durationMs }) => startedAt + durationMs).sort((a, b) => a - b),
  };
}

/** @returns ms from one trial to the next; as in the bare loop, the first one only warms the browser up */
async function series(drillId: string, detail: Detail): Promise<number> {
  const { starts } = await played({ drillId, trials: each + 1, detail });
  return (starts.at(-1)! - starts[1]!) / (each - 1);
}

const drillId = await drillOf();
const took: Record<string, number[]> = { bare: [], light: [], standard: [] };
for (let round = 0; round < rounds; round++) {
  took.bare!.push(await bare());
  took.light!.push(await series(drillId, 'light'));
  took.standard!.push(await series(drillId, 'standard'));
}
const middle = (name: string): number => median(took[name]!);
console.log(`ms from one to the next, medians of ${rounds} rounds of ${each}, in turn`);
for (const name of Object.keys(took))
  console.log(
    `  ${name.padEnd(10)} ${middle(name).toFixed(0).padStart(6)} ms   rate ${(middle('bare') / middle(name)).toFixed(2)} of the bare loop   (${took[name]!.map((one) => one.toFixed(0)).join(', ')})`,
  );

// Three browsers on two processors starve each other, so what is told of places is told where trials wait.
const waiting = (
  await json<{ id: string }>('POST', `${server.address}/api/drills`, {
    text: `drill "waits for the tide"\nopen "${site.address}/sailings/m-0710"\npause 4 s\ncheck text of css "h1" contains "sailing"\n`,
  })
).body;
const many = 12;
const [one, three] = [[] as number[], [] as number[]];
if (waiting.id)
  for (let round = 0; round < 2; round++)
    for (const [list, engine] of [
      [one, 'chromium'],
      [three, 'chromium,yard-2,yard-3'],
    ] as const) {
      const { starts, ends } = await played({ drillId: waiting.id, trials: many, detail: 'light', engine });
      list.push(ends.at(-1)! - starts[0]!);
    }
else console.log(waiting);
console.log(
  `${many} trials that wait 4 s: in one place ${(median(one) / 1000).toFixed(1)} s, in three ${(median(three) / 1000).toFixed(1)} s: ${(median(one) / median(three)).toFixed(2)} times`,
);
await server.stop();
await site.close();
await owner.close();
rmSync(home, { recursive: true, force: true });
process.exit(0);
