import { randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { ready, sleep, startServerProcess, type ServerProcess, pressKeys } from '../helpers.ts';

/** What a password field holds, on each way in, in the engines that tell less of their pages than Chromium does. */

let server: ServerProcess;
let site: Server;
let page = '';
const data = mkdtempSync(join(tmpdir(), 'iskel-ways-engines-'));
beforeAll(async () => {
  server = await startServerProcess({ data });
  site = createServer((_request, response) => {
    response.setHeader('content-type', 'text/html; charset=utf-8');
    const fields = ['typed', 'keys', 'given', 'later', 'source', 'attribute', 'read'];
    response.end(`<title>Sign in</title>${fields.map((id) => `<input id="${id}" type="password">`).join('')}`);
  });
  await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
  page = `http://127.0.0.1:${(site.address() as { port: number }).port}`;
});
afterAll(async () => {
  site.close();
  site.closeAllConnections();
  await server.stop();
  rmSync(data, { recursive: true, force: true });
});

/** Everything below a folder, packed files as what is in them. */
const filesBelow = (folder: string): Buffer[] =>
  readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((one) => one.isFile())
    .map((one) => readFileSync(join(one.parentPath, one.name)))
    .map((bytes) => (bytes[0] === 0x1f && bytes[1] === 0x8b ? gunzipSync(bytes) : bytes));

it.each(['firefox', 'webkit'])(
  'in %s none of them is stored',
  async (browserName) => {
    const values = new Map<string, string>();
    const secret = (way: string): string => {
      const value = `Qz${randomBytes(6).toString('hex')}Wk`;
      values.set(way, value);
      return value;
    };
    const driver = await WebDriver.open(`${server.address}/wd`, {
      browserName,
      'iskel:attempt': { run: `ways in ${browserName}`, test: { suite: 's', title: 'signs in' }, detail: 'full' },
    });
    const script = (source: string, ...args: unknown[]): Promise<unknown> =>
      driver.send('POST', '/execute/sync', { script: source, args });
    await driver.open(page);
    await (await driver.find('#typed')).type(secret('typed'));
    await (await driver.find('#keys')).click();
    await pressKeys(driver, secret('key by key'));
    await script('document.querySelector("#given").value = arguments[0]', secret('argument'));
    await driver.send('POST', '/execute/async', {
      script: 'document.querySelector("#later").value = arguments[0]; setTimeout(arguments[1], 20)',
      args: [secret('argument of a slow script')],
    });
    await script(`document.querySelector("#source").value = ${JSON.stringify(secret('source'))}`);
    await script('document.querySelector("#attribute").setAttribute("value", arguments[0])', secret('attribute'));
    await (await driver.find('#read')).type(secret('read back'));
    const found = await driver.send<Record<string, string>>('POST', '/element', {
      using: 'css selector',
      value: '#read',
    });
    expect(await driver.send('GET', `/element/${Object.values(found)[0]}/property/value`)).toBe(
      values.get('read back'),
    );
    await driver.send('GET', '/source');
    await sleep(700);
    await driver.outcome('failed', 'the sign-in was refused', '');
    await driver.quit();
    await ready(server.address, driver.attempt);
    const drill = await fetch(`${server.address}/api/drills`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ attemptId: driver.attempt }),
    });
    const stored = [...filesBelow(data), Buffer.from(await drill.text())];
    expect(stored.some((bytes) => bytes.includes('the sign-in was refused'))).toBe(true);
    const leaks = [...values].filter(([, value]) => stored.some((bytes) => bytes.includes(value)));
    expect(leaks.map(([way]) => way)).toEqual([]);
  },
  120_000,
);
