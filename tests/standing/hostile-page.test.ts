import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { chromeArguments, evidenceOf, json, ready, sleep, startServerProcess, type ServerProcess } from '../helpers.ts';
import { hostilePage } from './hostile-page.ts';

/**
 * A page that knows everything about Iskel, in a recorded browser of each engine, while a neighbour is recorded, too. It starts
 * nothing, reads nothing, forges nothing. `ISKEL_HARM_MINUTES` lets it try for longer; then it is said what the neighbour took.
 */
const minutes = Number(process.env.ISKEL_HARM_MINUTES ?? 0.05);
const folder = mkdtempSync(join(tmpdir(), 'iskel-harm-'));
const program = join(folder, 'started.sh');
let server: ServerProcess;
let site: Server;
let page = '';
let html = '';

/** Ports of this machine that listen where a page can reach them by the usual name. */
const listening = (): number[] =>
  ['tcp', 'tcp6'].flatMap((name) =>
    readFileSync(`/proc/net/${name}`, 'latin1')
      .split('\n')
      .slice(1)
      .flatMap((line) => {
        const fields = line.trim().split(/\s+/);
        const [address = '', port = ''] = (fields[1] ?? '').split(':');
        return fields[3] === '0A' && /^(?:0100007F|0+|0+1000000)$/.test(address) ? [parseInt(port, 16)] : [];
      }),
  );

beforeAll(async () => {
  writeFileSync(program, `#!/bin/sh\necho "$*" >> ${program}.txt\n`);
  chmodSync(program, 0o755);
  server = await startServerProcess({ env: { ISKEL_SECRET_PASSENGER: 'lantern-of-the-pier' } });
  site = createServer((request, response) => {
    response.setHeader('content-type', 'text/html; charset=utf-8');
    response.end(request.url === '/hostile' ? html : '<title>neighbour</title><button id="b">press</button>');
  });
  await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
  page = `http://127.0.0.1:${(site.address() as { port: number }).port}`;
}, 60_000);
afterAll(async () => {
  site.close();
  site.closeAllConnections();
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});

const open = (browserName: string, title: string): Promise<WebDriver> =>
  WebDriver.open(`${server.address}/wd`, {
    browserName,
    ...(browserName === 'chrome' ? { 'goog:chromeOptions': { args: chromeArguments } } : {}),
    'iskel:attempt': { run: 'harm', test: { suite: 's', title } },
  });

/** What twenty commands of a neighbour take, ms; the median of some. */
async function pace(neighbour: WebDriver): Promise<number> {
  const times: number[] = [];
  for (let i = 0; i < 7; i++) {
    const began = performance.now();
    for (let n = 0; n < 10; n++) await (await neighbour.find('#b')).click();
    times.push(performance.now() - began);
  }
  return times.sort((a, b) => a - b)[3]!;
}

it.each(['chrome', 'firefox', 'webkit'])(
  'in %s it starts nothing, reads nothing, forges nothing',
  async (engine) => {
    const { body: health } = await json<{ engines: { name: string }[]; faults: number }>('GET', `${server.address}/api/health`); // prettier-ignore
    expect(health.engines.map(({ name }) => name)).toContain(engine.replace('chrome', 'chromium'));
    const neighbour = await open('chrome', `beside ${engine}`);
    await neighbour.open(page);
    const driver = await open(engine, `hostile in ${engine}`);
    // As quick as beside another browser of that engine, with a page that does no harm.
    await driver.open(page);
    const before = await pace(neighbour);
    html = hostilePage(server.address, listening(), program);
    await driver.open(`${page}/hostile`);
    const until = Date.now() + minutes * 60_000;
    const beside: number[] = [];
    while (Date.now() < until) {
      beside.push(await pace(neighbour));
      await sleep(1000);
      // A session of which nothing is heard is ended.
      await driver.send('GET', '/title');
    }
    const tried = await driver.send<{ asked: number; answered: string[] }>('POST', '/execute/sync', {
      script: 'return window.tried',
      args: [],
    });
    const password = 'Iskele-memuru-4821';
    await (await driver.find('#password')).type(password);
    await sleep(700);
    await driver.outcome('passed');
    await driver.quit();
    await neighbour.quit();
    if (minutes > 1)
      console.log(
        `${engine}: ${tried.asked} tries in ${minutes} min; the neighbour took ${(beside.sort((a, b) => a - b)[beside.length >> 1]! / before).toFixed(2)} of before`,
      );
    expect(tried.asked).toBeGreaterThan(20);
    // Its own site answers, and so may other programs of this machine; of Iskel, its drivers and browsers none does.
    const own = new URL(page).port;
    expect(tried.answered.filter((one) => !one.includes(`:${own}`) && !one.includes(` ${own}`))).toEqual([]);
    expect(existsSync(`${program}.txt`) && readFileSync(`${program}.txt`, 'utf8')).toBe(false);
    const attempt = await ready(server.address, driver.attempt);
    const events = await evidenceOf(server.address, attempt.id);
    const forged = events.filter(
      (event) => event.lane !== 'step' && event.lane !== 'body' && JSON.stringify(event).includes('FORGED'),
    );
    expect(
      forged.filter(({ lane, data }) => lane !== 'element' || !JSON.stringify(data).includes('no record')),
    ).toEqual([]);
    expect(JSON.stringify(events)).not.toContain(password);
    for (const event of events)
      if (event.lane === 'page' && event.data.blob) {
        const structure = await (await fetch(`${server.address}/api/blobs/${event.data.blob}`)).text();
        expect(structure).not.toContain('<body>FORGED');
        expect(structure).not.toContain(password);
      }
    const { body: runs } = await json<{ runs: { name: string }[] }>('GET', `${server.address}/api/runs`);
    expect(runs.runs.map(({ name }) => name)).toEqual(['harm']);
    const { body: after } = await json<{ faults: number }>('GET', `${server.address}/api/health`);
    expect(after.faults).toBe(health.faults);
  },
  minutes * 60_000 + 90_000,
);
