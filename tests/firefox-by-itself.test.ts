import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import WebSocket from 'ws';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { readyIn } from '../src/browser/devtools/spool.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { ownFirefox, type BidiClient } from './bidi-client.ts';
import { standIn } from './devtools-client.ts';
import { eventually } from './helpers.ts';

/** A client that starts Firefox itself and speaks BiDi with it: recorded by the same path, and told the same as without us. */

const firefox = process.env.ISKEL_FIREFOX ?? '/usr/bin/firefox-esr';
let site: FerrySite;
let spool: string;
beforeAll(async () => {
  site = await startFerrySite();
  spool = mkdtempSync(join(tmpdir(), 'iskel-firefox-spool-'));
});
afterAll(async () => {
  await site.close();
  rmSync(spool, { recursive: true, force: true });
});

const open = (path: string, ...more: string[]): Promise<BidiClient> =>
  ownFirefox(path, { ISKEL_URL: 'http://127.0.0.1:1', ISKEL_SPOOL: spool, ISKEL_RUN: 'firefox' }, ...more);

/** A test of the ferry site in an isolated context, and everything a curious client asks for besides. */
async function asked(client: BidiClient): Promise<void> {
  const { send } = client;
  await send('session.status');
  await send('session.new', { capabilities: {} });
  await send('session.new', { capabilities: {} }).catch(() => undefined);
  await send('script.getRealms');
  await send('session.unsubscribe', { events: ['log.entryAdded'] }).catch(() => undefined);
  const { subscription } = await send('session.subscribe', {
    events: ['log', 'script.realmCreated', 'script.message'],
  });
  await send('session.subscribe', { events: ['browsingContext.contextCreated', 'browsingContext.load'] });
  const { userContext } = await send('browser.createUserContext');
  const { context } = await send('browsingContext.create', { type: 'tab', userContext });
  await send('session.subscribe', { events: ['browsingContext.domContentLoaded'], contexts: [context] });
  await send('browsingContext.navigate', { context, url: `${site.address}/`, wait: 'complete' });
  await send('script.getRealms', { context });
  await send('script.evaluate', {
    expression: 'console.log("all aboard"), document.title',
    target: { context },
    awaitPromise: true,
  });
  await send('script.addPreloadScript', {
    functionDeclaration: '(told) => told(location.pathname)',
    arguments: [{ type: 'channel', value: { channel: 'mine' } }],
  });
  await send('session.unsubscribe', { subscriptions: [subscription] });
  const { nodes } = await send<{ nodes: { sharedId: string }[] }>('browsingContext.locateNodes', {
    context,
    locator: { type: 'css', value: 'a[href], button' },
    maxNodeCount: 1,
  });
  await send('input.performActions', {
    context,
    actions: [
      {
        type: 'pointer',
        id: 'mouse',
        actions: [
          { type: 'pointerMove', x: 0, y: 0, origin: { type: 'element', element: { sharedId: nodes[0]!.sharedId } } },
          { type: 'pointerDown', button: 0 },
          { type: 'pointerUp', button: 0 },
        ],
      },
    ],
  });
  await new Promise((done) => setTimeout(done, 800));
  await send('browsingContext.reload', { context, wait: 'complete' });
  await send('session.unsubscribe', { events: ['browsingContext.load'] });
  await send('browsingContext.reload', { context, wait: 'complete' });
  await send('browsingContext.captureScreenshot', { context });
  await send('browsingContext.nothingOfTheKind', { context }).catch(() => undefined);
  await new Promise((done) => setTimeout(done, 300));
  await send('browser.removeUserContext', { userContext });
  await send('browsingContext.getTree');
}

const chance =
  /"(?:context|realm|userContext|subscription|sharedId|navigation|script|clientWindow|sessionId|data|stacktrace|handle|originalOpener)":"[^"]*"/g;
/** What was told, each message without what is by chance. */
const plain = ({ told }: BidiClient): string[] =>
  told
    .map((message) => JSON.stringify(message))
    .map((text) =>
      text
        .replace(chance, (found) => `${found.slice(0, found.indexOf(':'))}:"…"`)
        .replace(/"(?:timestamp|moz:processID|lineNumber)":[^,}]*/g, '"…"')
        .replace(/moz:[\w.]+":"[^"]*"/g, '…'),
    );
const events = (list: readonly string[]): string[] =>
  list.filter((one) => one.startsWith('{"type":"event"') && !one.includes('about:newtab')).sort();
const answers = (list: readonly string[]): string[] => list.filter((one) => !one.startsWith('{"type":"event"'));

it('a client is told the same as without us: answers, refusals, events, realms', async () => {
  const with_ = await open(standIn);
  const without = await open(firefox);
  const ended: unknown[] = [];
  try {
    for (const client of [with_, without]) await asked(client);
    expect(JSON.parse(with_.left())).toEqual({ ws_host: '127.0.0.1', ws_port: Number(new URL(with_.address).port) });
    const [ours, theirs] = [plain(with_), plain(without)];
    expect(answers(ours)).toEqual(answers(theirs));
    expect(events(ours)).toEqual(events(theirs));
    expect(ours.filter((one) => one.includes('iskel'))).toEqual([]);
  } finally {
    ended.push(await with_.close(), await without.close());
  }
  expect(ended[0]).toEqual(ended[1]);
  expect(with_.stderr()).not.toContain('not recorded');
}, 120_000);

it('and what it did is recorded: one test, with its steps, pages, requests and pictures', async () => {
  const found = await eventually(
    () => Promise.resolve(readyIn(spool)),
    (list) => list.length === 1,
  );
  const all: EvidenceEvent[] = [...found[0]!.events()];
  const steps = all.flatMap((event) => (event.lane === 'step' ? [event.data.label] : []));
  expect(steps).toContain('Open /');
  expect(steps.some((label) => label.startsWith('Press'))).toBe(true);
  expect(steps.filter((label) => label.startsWith('Reload'))).toHaveLength(2);
  for (const lane of ['page', 'network', 'console', 'screen'] as const)
    expect(all.filter((event) => event.lane === lane).length, lane).toBeGreaterThan(0);
});

it('a page is refused as the browser refuses it, and what is not understood is said', async () => {
  const client = await open(standIn);
  try {
    const status = (headers: Record<string, string>, path = '/session'): Promise<string> =>
      new Promise((done) => {
        const socket = new WebSocket(`${client.address}${path}`, { headers });
        socket.once('open', () => done('open'));
        socket.once('unexpected-response', (_request, answer) => done(String(answer.statusCode)));
        socket.once('error', (error) => done(error.message));
      });
    expect(await status({ origin: 'http://harbour.example' })).not.toBe('open');
    expect(await status({ host: 'harbour.example' })).not.toBe('open');
    expect(await status({}, '/session/another')).not.toBe('open');
    await eventually(
      () => Promise.resolve(client.stderr()),
      (said) => said.includes('not recorded: a connection cannot be read'),
    );
    const answer = await fetch(client.address.replace('ws:', 'http:'));
    expect(answer.status).toBe(200);
  } finally {
    await client.send('session.new', { capabilities: {} });
    await client.close();
  }
}, 60_000);
