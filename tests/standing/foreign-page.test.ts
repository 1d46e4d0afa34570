import { createServer, type Server } from 'node:http';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { json, openBrowser, startServerProcess, type ServerProcess } from '../helpers.ts';

/**
 * What a page of somebody else can do to Iskel through the browser of the person who runs it: nothing. Tried in
 * a real browser from another port of this machine, and from a frame that is shut off; with and without a token.
 */
const token = 'a-token-of-the-harbour-office';
let browser: Browser;
let foreign: Server;
let foreignAddress: string;
const servers: { plain?: ServerProcess; guarded?: ServerProcess } = {};

beforeAll(async () => {
  [browser, servers.plain, servers.guarded] = await Promise.all([
    openBrowser(),
    startServerProcess(),
    startServerProcess({ env: { ISKEL_TOKEN: token } }),
  ]);
  foreign = createServer((_request, response) => {
    response.setHeader('content-type', 'text/html');
    response.end('<title>Somebody else</title><p>A page of somebody else.</p>');
  });
  await new Promise<void>((done) => foreign.listen(0, '127.0.0.1', done));
  foreignAddress = `http://127.0.0.1:${(foreign.address() as { port: number }).port}`;
}, 60_000);
afterAll(async () => {
  await browser.close();
  foreign.close();
  await Promise.all([servers.plain!.stop(), servers.guarded!.stop()]);
});

interface Tried {
  [what: string]: string;
}

/** Run in the page: everything it could try, and what came of it. */
async function attack(address: string): Promise<Tried> {
  const out: Tried = {};
  const told = async (what: string, work: () => Promise<unknown>): Promise<void> => {
    try {
      const value = await work();
      out[what] = `done: ${typeof value === 'string' ? value : JSON.stringify(value)}`.slice(0, 80);
    } catch (error) {
      out[what] = `failed: ${(error as Error).name}`;
    }
  };
  const ask = async (path: string, init: RequestInit = {}): Promise<string> => {
    const answer = await fetch(address + path, { credentials: 'include', ...init });
    return `${answer.type} ${answer.status} ${await answer.text()}`;
  };
  const session = JSON.stringify({ capabilities: { alwaysMatch: { browserName: 'chrome' } } });
  const verdict = JSON.stringify({ kind: 'note', text: 'x' });
  for (const [name, mode] of [['cors', 'cors'], ['no-cors', 'no-cors']] as const) {
    await told(`read runs, ${name}`, () => ask('/api/runs', { mode }));
    await told(`start a session, ${name}`, () => ask('/wd/session', { method: 'POST', mode, body: session }));
    await told(`start a session as a blob, ${name}`, () => ask('/wd/session', { method: 'POST', mode, body: new Blob([session]) }));
    await told(`change a verdict, ${name}`, () => ask('/api/families/f-1/decisions', { method: 'POST', mode, body: verdict }));
    await told(`take files in, ${name}`, () => {
      const form = new FormData();
      form.append('files', new Blob(['<testsuite name="planted"><testcase name="c"/></testsuite>']), 'planted.xml');
      return ask('/api/intake', { method: 'POST', mode, body: form });
    });
    await told(`begin an attempt, ${name}`, () =>
      ask('/api/attempts', { method: 'POST', mode, body: JSON.stringify({ run: 'planted', test: { title: 't' }, startedAt: 1 }) }),
    );
  }
  await told('change a verdict as JSON', () =>
    ask('/api/families/f-1/decisions', { method: 'POST', headers: { 'content-type': 'application/json' }, body: verdict }),
  );
  await told('stop a series', () => ask('/api/series/s-1', { method: 'DELETE' }));
  await told('delete a delivery', () => ask('/api/intake/i-1', { method: 'DELETE' }));
  await told('change rules', () => ask('/api/rules', { method: 'PUT', body: '{"masks":["a"]}' }));
  await told('listen to changes', () =>
    new Promise((done, fail) => {
      const source = new EventSource(`${address}/api/stream`, { withCredentials: true });
      source.onmessage = () => done('heard');
      source.addEventListener('hello', () => done('heard'));
      source.onerror = () => fail(new Error('no'));
    }),
  );
  await told('open a socket', () =>
    new Promise((done, fail) => {
      const socket = new WebSocket(`${address.replace('http', 'ws')}/wd/session/x`);
      socket.onopen = () => done('open');
      socket.onerror = () => fail(new Error('no'));
    }),
  );
  await told('show a picture', () =>
    new Promise((done, fail) => {
      const image = new Image();
      image.onload = () => done('shown');
      image.onerror = () => fail(new Error('no'));
      image.src = `${address}/api/blobs/${'ab'.repeat(32)}`;
    }),
  );
  await told('run a script of it', () =>
    new Promise((done, fail) => {
      const element = document.createElement('script');
      element.onload = () => done('ran');
      element.onerror = () => fail(new Error('no'));
      element.src = `${address}/api/runs`;
      document.head.append(element);
    }),
  );
  await told('send a form', () =>
    new Promise((done) => {
      const frame = document.createElement('iframe');
      frame.name = 'target';
      const form = document.createElement('form');
      form.method = 'POST';
      form.enctype = 'text/plain';
      form.action = `${address}/api/attempts`;
      form.target = 'target';
      const input = document.createElement('input');
      input.name = '{"run":"planted","test":{"title":"t"},"startedAt":1,"x":"';
      input.value = '"}';
      form.append(input);
      document.body.append(frame, form);
      frame.onload = () => done('sent');
      form.submit();
      setTimeout(() => done('sent'), 500);
    }),
  );
  return out;
} // prettier-ignore

/** What the server holds that a page could have planted or begun. */
async function held({ address, child }: ServerProcess, headers: Record<string, string>): Promise<unknown> {
  const get = async (path: string): Promise<unknown> => (await fetch(address + path, { headers })).json();
  expect(child.exitCode).toBeNull();
  return { runs: await get('/api/runs'), rules: await get('/api/rules'), health: await get('/api/health') };
}

const nothingDone = (tried: Tried): void => {
  const done = Object.entries(tried).filter(
    ([what, came]) =>
      // An answer that may not be looked into is no answer; that nothing came of it is looked for at the server.
      came.startsWith('done') && !came.startsWith('done: opaque 0') && what !== 'send a form',
  );
  expect(done).toEqual([]);
  expect(Object.keys(tried).length).toBeGreaterThan(18);
};

describe.each([
  ['without a token', 'plain', {}],
  ['with a token that the browser holds', 'guarded', { authorization: `Bearer ${token}` }],
] as const)('a page of somebody else, %s', (_how, which, headers) => {
  let page: Page;
  let server: ServerProcess;
  beforeAll(async () => {
    server = servers[which]!;
    const context = await browser.newContext();
    page = await context.newPage();
    // The browser has been to Iskel before, as its owner's has.
    await page.goto(`${server.address}/?token=${token}`);
    expect(await page.title()).toContain('Iskel');
    await page.goto(`${foreignAddress}/`);
  });

  it('on another port of this machine can do and read nothing', async () => {
    const before = await held(server, headers);
    nothingDone(await page.evaluate(attack, server.address));
    expect(await held(server, headers)).toEqual(before);
  });

  it('under another name of this machine neither', async () => {
    await page.goto(foreignAddress.replace('127.0.0.1', 'localhost'));
    const before = await held(server, headers);
    nothingDone(await page.evaluate(attack, server.address));
    expect(await held(server, headers)).toEqual(before);
  });

  it('in a frame that is shut off neither', async () => {
    await page.goto(`${foreignAddress}/`);
    await page.evaluate(() => {
      const frame = document.createElement('iframe');
      frame.setAttribute('sandbox', 'allow-scripts allow-forms');
      frame.srcdoc = '<p>Shut off</p>';
      document.body.append(frame);
      return new Promise((done) => (frame.onload = done));
    });
    const frame = page.frames().at(-1)!;
    const before = await held(server, headers);
    nothingDone(await frame.evaluate(attack, server.address));
    expect(await held(server, headers)).toEqual(before);
  });

  it('cannot show Iskel inside itself', async () => {
    await page.goto(`${foreignAddress}/`);
    const shown = await page.evaluate(async (address) => {
      const frame = document.createElement('iframe');
      frame.src = address;
      document.body.append(frame);
      await new Promise((done) => (frame.onload = done));
      return frame.contentDocument?.title ?? 'of another origin';
    }, server.address);
    expect(shown).not.toContain('Iskel');
    expect(
      await page
        .frames()
        .at(-1)!
        .title()
        .catch(() => ''),
    ).not.toContain('Iskel');
  });

  it('may link to a page of Iskel, which then works', async () => {
    await page.goto(`${foreignAddress}/`);
    await page.evaluate((address) => {
      const link = document.createElement('a');
      link.href = `${address}/find`;
      link.textContent = 'look';
      document.body.append(link);
    }, server.address);
    await page.click('a');
    await page.waitForURL('**/find');
    expect(await page.title()).toContain('Iskel');
    const read = await page.evaluate(async () => (await fetch('/api/runs')).status);
    expect(read).toBe(200);
    const wrote = await page.evaluate(
      async () =>
        (
          await fetch('/api/drills/check', {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: '{"text":"back"}',
          })
        ).status,
    );
    expect(wrote).toBe(200);
    expect(page.url()).not.toContain('token');
  });
});

it('without a session before, a token is asked for', async () => {
  expect((await json('GET', `${servers.guarded!.address}/api/runs`)).status).toBe(401);
});
