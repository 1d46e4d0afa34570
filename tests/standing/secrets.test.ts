import { spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { chromeArguments, json, program, ready } from '../helpers.ts';

/**
 * Declared secrets in forms that hide them: escaped, cut off, in pieces, as numbers, across tags, in the server's own
 * log. Each has a part that no other text has, so that a byte search finds it in whatever writing it is left.
 */
const secrets = {
  escaped: `Qx1<&"'kor>fez`,
  spaced: 'Qx2 mor  deniz feneri',
  pieces: 'Qx3yelkenli97',
  keys: 'Qx4pusula38',
  number: '840061735',
  cutScript: 'Qx5liman-baskani-46',
  cutNote: 'Qx6iskele-memuru-52',
  tags: 'Qx7karavela-19',
  logged: 'Qx8kaptan-kosku-83',
  address: 'Qx9/ada vapuru?&=81',
  locator: 'Qx0simit-tezgahi-27',
  title: 'QxAmartilar-64',
};
/** What must be found nowhere: the telling part of each, in the writings that hold it. */
const traces = [
  'kor>fez', 'kor&gt;fez', 'kor%3Efez', 'mor  deniz', 'mor deniz', 'mor+deniz', 'mor%20deniz', 'Qx3yelkenli97', 'yelkenli', 'Qx4pusula38',
  '840061735', 'liman-baskani', 'Qx5liman', 'iskele-memuru', 'Qx6iskele', 'karavela', 'kaptan-kosku', 'ada vapuru', 'ada+vapuru', 'ada%20vapuru',
  'simit-tezgahi', 'Qx0simit', 'martilar-64', 'QxAmartilar', Buffer.from('Qx3yelkenli97').toString('base64').slice(0, 12),
]; // prettier-ignore

const home = mkdtempSync(join(tmpdir(), 'iskel-secrets-'));
let address: string;
let stop: () => Promise<void>;
let log = '';
let site: Server;

beforeAll(async () => {
  const child = spawn(process.execPath, program('src/server/main.ts'), {
    env: { ...process.env, ISKEL_PORT: '0', ISKEL_DATA: join(home, 'data'), ISKEL_TOKEN: '', ISKEL_LOG: 'info' },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  child.stderr.on('data', (chunk: Buffer) => (log += chunk.toString()));
  address = await new Promise((done) =>
    child.stdout.on('data', (chunk: Buffer) => {
      const found = /Iskel is at (\S+)/.exec(chunk.toString())?.[1];
      if (found) done(found);
    }),
  );
  stop = async () => {
    const ended = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await ended;
  };
  const html = (text: string): string =>
    text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
  site = createServer((_request, response) => {
    response.setHeader('content-type', 'text/html; charset=utf-8');
    const [a, b] = [secrets.tags.slice(0, 5), secrets.tags.slice(5)];
    response.end(
      `<title>Desk ${secrets.title}</title><input id="field"><p id="p" title="${html(secrets.escaped)}">${html(secrets.escaped)} and ${secrets.spaced}</p>
       <p id="q">before <b>${a}</b>${b} after</p><p id="${secrets.locator}">a place</p>
       <script>console.log(${JSON.stringify(secrets.escaped).replaceAll('<', '\\u003c')}, ${secrets.number}, "${'x'.repeat(1990)} ${secrets.cutScript}");
       console.error({ pin: ${secrets.number} }); fetch('/sail?to=' + encodeURIComponent(${JSON.stringify(secrets.address)}));
       throw new Error(${JSON.stringify(secrets.spaced)})</script>`,
    );
  });
  await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
}, 60_000);
afterAll(async () => {
  site.close();
  await stop();
  rmSync(home, { recursive: true, force: true });
});

it('declared ones are found nowhere, in whatever form', async () => {
  const page = `http://127.0.0.1:${(site.address() as { port: number }).port}`;
  const driver = await WebDriver.open(`${address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': {
      run: `run of ${'x'.repeat(488)}${secrets.title}`,
      test: { suite: 'standing', title: `types ${secrets.title}` },
      labels: { note: secrets.spaced, [secrets.locator]: 'x' },
      secrets: Object.values(secrets),
      detail: 'full',
    },
  });
  const id = driver.attempt;
  await driver.open(`${page}/?to=${encodeURIComponent(secrets.address)}`);
  const field = await driver.find('#field');
  for (let at = 0; at < secrets.pieces.length; at += 3) await field.type(secrets.pieces.slice(at, at + 3));
  await field.clear();
  await field.click();
  for (const key of secrets.keys)
    await driver.send('POST', '/actions', {
      actions: [
        {
          type: 'key',
          id: 'k',
          actions: [
            { type: 'keyDown', value: key },
            { type: 'keyUp', value: key },
          ],
        },
      ],
    });
  for (let cut = 1985; cut < 2002; cut += 3)
    await driver.send('POST', '/execute/sync', {
      script: `return "${'y'.repeat(cut - 20)} ${secrets.cutScript}" + ${JSON.stringify(secrets.escaped)}`,
      args: [Number(secrets.number), { pin: Number(secrets.number) }],
    });
  await driver.send('POST', '/execute/sync', {
    script: `return { pin: ${secrets.number}, list: [${secrets.number}] }`,
    args: [],
  });
  await (await driver.find('#p')).text();
  await (await driver.find('#q')).text();
  await driver.send('POST', '/element', { using: 'css selector', value: `[id="${secrets.locator}"]` });
  await driver
    .send('POST', '/element', { using: 'css selector', value: `#none-${secrets.locator}` })
    .catch(() => undefined);
  await driver.send('GET', '/source');
  await driver.note({ kind: 'note', label: `${'z'.repeat(3990)}${secrets.cutNote}` });
  await driver.note({
    kind: 'check',
    label: 'seen',
    ok: false,
    expected: secrets.spaced,
    actual: Number(secrets.number) as unknown as string,
  });
  await driver.outcome(
    'failed',
    `expected ${secrets.escaped} but was ${secrets.spaced}`,
    `${'w'.repeat(199_990)}${secrets.cutNote}`,
  );
  // The log tells what failed, and what failed may hold anything.
  await driver.send('POST', '/url', { url: `${page}/${'%zz'}` }).catch(() => undefined);
  await driver.quit();
  await ready(address, id);
  await json('GET', `${address}/api/attempts/${id}/advice`);
  expect((await json('GET', `${address}/api/find?words=liman`)).status).toBe(200);

  const kept: [string, Buffer][] = [['the log', Buffer.from(log)]];
  for (const call of [
    '',
    '/events?limit=10000',
    '/har',
    '/console',
    '/steps',
    '/clues',
    '/advice',
    '/outline',
    '/pack',
  ])
    kept.push([call, Buffer.from(await (await fetch(`${address}/api/attempts/${id}${call}`)).arrayBuffer())]);
  for (const words of ['desk', 'masked', 'place', 'error'])
    kept.push([words, Buffer.from(await (await fetch(`${address}/api/find?words=${words}`)).arrayBuffer())]);
  const walk = (folder: string): void => {
    for (const name of readdirSync(folder)) {
      const path = join(folder, name);
      if (statSync(path).isDirectory()) walk(path);
      else kept.push([path, readFileSync(path)]);
    }
  };
  walk(join(home, 'data'));
  const found = kept.flatMap(([place, bytes]) =>
    traces.flatMap((trace) => {
      const at = bytes.indexOf(trace);
      return at < 0 ? [] : [`${trace} in ${place}: …${bytes.toString('latin1', Math.max(0, at - 90), at + 30)}`];
    }),
  );
  expect([...new Set(found)]).toEqual([]);
  const database = kept
    .filter(([place]) => place.includes('iskel.sqlite'))
    .map(([, bytes]) => bytes.toString('latin1'));
  expect(database.join('').split('masked').length).toBeGreaterThan(30);
}, 120_000);

it('nor in the log, when something fails over one', async () => {
  const { maskLog, maskedLine } = await import('../../src/server/log.ts');
  const { createMasker } = await import('../../src/core/evidence/masking.ts');
  const masker = createMasker([secrets.logged]);
  const end = maskLog((line) => masker.text(line));
  expect(maskedLine(JSON.stringify({ problem: `Error: no ${secrets.logged}\n at x` }))).not.toContain('kaptan');
  end();
});
