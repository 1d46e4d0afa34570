import { spawn, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WebDriver } from '../../demo/suite/webdriver.ts';
import { chromeArguments, json, program, ready, sleep, pressKeys } from '../helpers.ts';

/**
 * Secrets that nobody declared, on every way into Iskel: by their shape in texts, by password fields that are typed, filled,
 * scripted, shown and echoed, by headers, bodies and cookies, in reports and logs that are dropped later. None is found in
 * anything that is stored or given out. Each way has a value of its own.
 */
const values = new Map<string, string>();
const secret = (way: string): string => {
  const value = `Zq${values.size}${randomBytes(5).toString('hex')}Kx`;
  values.set(way, value);
  return value;
};

const shapes: Record<string, (v: string) => string> = {
  'password=': (v) => `password=${v}`,
  'pwd=': (v) => `pwd=${v}`,
  'otp:': (v) => `otp: ${v}`,
  'JSON key': (v) => `{"client_secret":"${v}"}`,
  'name and value': (v) => `{"name":"password","value":"${v}"}`,
  'signed link': (v) => `https://cdn.test/a.png?sv=1&sig=${v}`,
  'code of a sign-in': (v) => `https://ferry.test/cb?code=${v}&state=1`,
  'address with @': (v) => `postgres://app:p@${v}@db.test/ferry`,
  header: (v) => `x-vault-token: ${v}`,
  bearer: (v) => `sent with Bearer ${v}`,
  'signature of a store': (v) => `https://s3.test/k?X-Amz-Signature=${v}`,
  'password field of markup': (v) => `<input type=password value="${v}">`,
};
/** One text for each shape, told on one channel. */
const texts = (channel: string): string[] =>
  Object.entries(shapes).map(([name, write]) => write(secret(`${name} in ${channel}`)));

const home = mkdtempSync(join(tmpdir(), 'iskel-ways-'));
let child: ChildProcess;
let address = '';
let log = '';
let site: Server;
let page = '';

beforeAll(async () => {
  child = spawn(process.execPath, program('src/server/main.ts'), {
    env: { ...process.env, ISKEL_PORT: '0', ISKEL_DATA: join(home, 'data'), ISKEL_TOKEN: '', ISKEL_LOG: 'info' },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  child.stderr!.on('data', (chunk: Buffer) => (log += chunk.toString()));
  address = await new Promise((done) =>
    child.stdout!.on('data', (chunk: Buffer) => {
      const found = /Iskel is at (\S+)/.exec(chunk.toString())?.[1];
      if (found) done(found);
    }),
  );
  const cookie = secret('cookie that a site sets');
  const returned = secret('answer of a sign-in');
  const fields = ['typed', 'pieces', 'keys', 'given', 'source', 'own', 'pasted', 'shown', 'read', 'form', 'echo', 'said', 'thrown', 'title', 'attr', 'alert']; // prettier-ignore
  const own = secret('set by the page itself');
  site = createServer((request, response) => {
    request.resume();
    response.setHeader('set-cookie', [`sid=${cookie}; Path=/; HttpOnly`, 'lang=tr; Path=/']);
    if (request.method === 'POST' || request.url!.startsWith('/api')) {
      response.setHeader('content-type', 'application/json');
      response.end(JSON.stringify({ user: 'deniz', refresh_token: returned }));
      return;
    }
    response.setHeader('content-type', 'text/html; charset=utf-8');
    response.end(`<title>Sign in</title><form id="f" method="post" target="hole" action="/login">
      ${fields.map((id) => `<input id="${id}" name="${id}" type="password">`).join('')}</form>
      <iframe name="hole" hidden></iframe><button id="show">show</button><p id="out">nothing</p><script>
      const $ = (id) => document.getElementById(id);
      $('own').value = ${JSON.stringify(own.slice(0, 6))} + ${JSON.stringify(own.slice(6))};
      $('show').onclick = () => { $('shown').type = 'text'; };
      $('echo').oninput = () => { $('out').textContent = 'you typed ' + $('echo').value; };
      $('said').oninput = () => console.log('value is', $('said').value, { value: $('said').value });
      $('thrown').oninput = () => setTimeout(() => { throw new Error('cannot take ' + $('thrown').value); });
      $('title').oninput = () => { document.title = 'Hello ' + $('title').value; };
      $('attr').oninput = () => $('out').setAttribute('data-kept', $('attr').value);
      $('pasted').onpaste = (e) => { $('pasted').value = e.clipboardData.getData('text'); };
    </script>`);
  });
  await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
  page = `http://127.0.0.1:${(site.address() as { port: number }).port}`;
}, 60_000);
afterAll(async () => {
  site.close();
  const ended = new Promise((done) => child.once('exit', done));
  child.kill('SIGTERM');
  await ended;
  rmSync(home, { recursive: true, force: true });
});

/** What is no secret has to be found: else nothing was looked at. */
const control = 'sailing-from-the-old-pier';

const reversed = (text: string): string => [...text].reverse().join('');
const deliver = async (files: Record<string, string>, run: string): Promise<void> => {
  const form = new FormData();
  form.append('run', run);
  for (const [name, text] of Object.entries(files)) form.append('files', new Blob([text]), name);
  expect((await fetch(`${address}/api/intake`, { method: 'POST', body: form })).status).toBe(200);
};
const xml = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');

/** Everything that a test does with a password, a page of its own and a client that says much. */
async function recorded(): Promise<string> {
  const declared = secret('declared, in a report dropped later');
  const driver = await WebDriver.open(`${address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': { run: 'ways', test: { suite: 's', title: 'signs in' }, detail: 'full', secrets: [declared] },
  });
  const script = (source: string, ...args: unknown[]): Promise<unknown> =>
    driver.send('POST', '/execute/sync', { script: source, args });
  await driver.open(page);
  await driver.find('#out');
  const type = async (id: string, way: string): Promise<string> => {
    const value = secret(way);
    await (await driver.find(`#${id}`)).type(value);
    return value;
  };
  await type('typed', 'typed');
  const pieces = secret('typed in pieces');
  for (let at = 0; at < pieces.length; at += 7) await (await driver.find('#pieces')).type(pieces.slice(at, at + 7));
  await (await driver.find('#keys')).click();
  await pressKeys(driver, secret('typed key by key'));
  await script('document.querySelector("#given").value = arguments[0]', secret('argument of a script'));
  await script(`document.querySelector("#source").value = ${JSON.stringify(secret('source of a script'))}`);
  await script(
    'const d = new DataTransfer(); d.setData("text", arguments[0]); document.querySelector("#pasted").dispatchEvent(new ClipboardEvent("paste", { clipboardData: d }))',
    secret('pasted'),
  );
  await type('shown', 'shown by the page');
  await (await driver.find('#show')).click();
  await sleep(400);
  const read = await type('read', 'read back');
  const field = (await driver.send<Record<string, string>>('POST', '/element', {
    using: 'css selector',
    value: '#read',
  }))!;
  expect(await driver.send('GET', `/element/${Object.values(field)[0]}/property/value`)).toBe(read);
  expect(await script('return document.querySelector("#read").value')).toBe(read);
  for (const [id, way] of [['echo', 'written into the page'], ['said', 'logged by the page'], ['thrown', 'thrown by the page'], ['title', 'in the title'], ['attr', 'in an attribute'], ['form', 'sent with a form']] as const) await type(id, way); // prettier-ignore
  await (await driver.find('#out')).text();
  await script(`alert("is it " + document.querySelector("#typed").value)`);
  await driver.send('GET', '/alert/text');
  await driver.send('POST', '/alert/accept');
  await script('document.querySelector("#f").submit()');
  await script(`document.cookie = "${`own=${secret('cookie that a script sets')}`}; path=/"`);
  await driver.send('GET', '/cookie');
  await driver.send('POST', '/cookie', { cookie: { name: 'given', value: secret('cookie that a test sets') } });
  await script('return document.cookie');
  await script(
    'return fetch("/api/x?access_token=" + arguments[0].split("").reverse().join(""), { method: "POST", headers: { "x-session-token": arguments[1].split("").reverse().join(""), "content-type": "application/json" }, body: JSON.stringify({ otp: arguments[2].split("").reverse().join("") }) }).then(r => r.text()).then(() => 1)',
    reversed(secret('query of a request')),
    reversed(secret('header of a request')),
    reversed(secret('body of a request')),
  );
  await script(
    'return { password: arguments[0].split("").reverse().join(""), pairs: [["token", arguments[1].split("").reverse().join("")]] }',
    reversed(secret('answer of a script')),
    reversed(secret('pair in an answer')),
  );
  await script('for (const line of arguments[0]) console.warn(line.split("").reverse().join(""))', texts('the console').map(reversed)); // prettier-ignore
  for (const label of texts('notes')) await driver.note({ kind: 'note', label });
  await driver.note({ kind: 'note', label: control });
  await driver.outcome('failed', texts('the outcome').join('\n'), '');
  await sleep(700);
  await driver.quit();
  await ready(address, driver.attempt);
  await deliver(
    { 'r.xml': `<testsuite name="s"><testcase classname="s" name="later"><failure message="expected ${declared}">at ${declared} ${btoa(`a:${declared}`)}</failure></testcase></testsuite>` },
    'declared later',
  ); // prettier-ignore
  return driver.attempt;
}

async function toldLater(): Promise<void> {
  const begun = await json<{ id: string }>('POST', `${address}/api/attempts`, {
    run: 'streamed', test: { title: 'streams' }, startedAt: Date.now(),
  }); // prettier-ignore
  const lines = texts('streamed events').map((text, i) =>
    JSON.stringify({ id: `e${i}`, lane: 'console', at: i, data: { text, level: 'error' } }),
  );
  await fetch(`${address}/api/attempts/${begun.body.id}/events`, { method: 'POST', body: lines.join('\n') });
  await json('POST', `${address}/api/attempts/${begun.body.id}/outcome`, { status: 'failed', message: 'x', stack: '' });
  const at = (i: number): string => new Date(Date.now() + i).toISOString();
  await deliver(
    {
      'report.xml': `<testsuite name="s">${texts('a report').map((text, i) => `<testcase classname="c" name="t${i}" timestamp="${at(i)}"><failure message="${xml(text)}">${xml(text)}</failure></testcase>`).join('')}</testsuite>`, // prettier-ignore
      'app.log': texts('a log').map((text, i) => `${at(i)} ERROR ${text}`).join('\n'), // prettier-ignore
    },
    'reported',
  );
}

/** How a value may stand in bytes. */
const writings = (value: string): Buffer[] => {
  const all = new Set([value, encodeURIComponent(value), ...[0, 1, 2].map((n) => btoa(`${'x'.repeat(n)}${value}`).slice(n ? 4 : 0, -4))]); // prettier-ignore
  return [...all].map((one) => Buffer.from(one));
};

it('on all ways in, none is found on any way out', async () => {
  const id = await recorded();
  await toldLater();
  expect(values.size).toBeGreaterThanOrEqual(80);
  const places: [string, Buffer][] = [['the log of the server', Buffer.from(log)]];
  const asked = async (call: string): Promise<void> => {
    const answer = await fetch(address + call);
    if (answer.status < 500) places.push([call, Buffer.from(await answer.arrayBuffer())]);
  };
  for (const call of ['', '/events?limit=10000', '/har', '/console', '/steps', '/clues', '/advice', '/outline', '/pack', '/hand-over', '/hand-over?as=markdown', '/hand-over?as=text', '/suspects']) await asked(`/api/attempts/${id}${call}`); // prettier-ignore
  const { body } = await json<{ runs: { id: string }[] }>('GET', `${address}/api/runs?limit=50`);
  for (const run of body.runs) for (const call of ['/junit', '/table', '/console', '/attempts', '/sheet']) await asked(`/api/runs/${run.id}${call}`); // prettier-ignore
  for (const words of ['password', 'token', 'expected', 'Zq']) await asked(`/api/find?words=${words}`);
  const pack = unzipSync(new Uint8Array(await (await fetch(`${address}/api/attempts/${id}/pack`)).arrayBuffer()));
  for (const [name, bytes] of Object.entries(pack)) places.push([`${name} of the pack`, Buffer.from(bytes)]);
  const drill = await json<{ text?: string }>('POST', `${address}/api/drills`, { attemptId: id });
  places.push(['a drill', Buffer.from(JSON.stringify(drill.body))]);
  const walk = (folder: string): void => {
    for (const name of readdirSync(folder)) {
      const path = join(folder, name);
      if (statSync(path).isDirectory()) walk(path);
      else {
        const bytes = readFileSync(path);
        places.push([path, bytes]);
        if (bytes[0] === 0x1f && bytes[1] === 0x8b) places.push([path, gunzipSync(bytes)]);
      }
    }
  };
  walk(join(home, 'data'));
  const found = [...values].flatMap(([way, value]) =>
    places.flatMap(([place, bytes]) =>
      writings(value).some((one) => bytes.includes(one)) ? [`${way}: in ${place.slice(-60)}`] : [],
    ),
  );
  expect(found).toEqual([]);
  const seen = places.filter(([, bytes]) => bytes.includes(control)).map(([place]) => place);
  expect(seen).toEqual(expect.arrayContaining([expect.stringContaining('iskel.sqlite'), 'events.jsonl of the pack']));
  expect(seen.length).toBeGreaterThanOrEqual(4);
}, 120_000);
