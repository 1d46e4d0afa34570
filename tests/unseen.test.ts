import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { readyIn } from '../src/browser/devtools/spool.ts';
import { overPipe, standIn, type Client } from './devtools-client.ts';
import { eventually, sleep } from './helpers.ts';

/** What a client that asks for everything is told: the same with us on its pipe as alone with the browser. */

type Json = Record<string, unknown>;
const chromium = '/usr/bin/chromium';
let site: FerrySite;
let folder: string;
beforeAll(async () => {
  site = await startFerrySite();
  folder = mkdtempSync(join(tmpdir(), 'iskel-unseen-'));
});
afterAll(async () => {
  await site.close();
  rmSync(folder, { recursive: true, force: true });
});

/** Everything of a session of the client's, with what differs by chance taken out. */
async function told(path: string): Promise<Record<string, unknown>> {
  const client = overPipe({ ISKEL_URL: 'http://127.0.0.1:1', ISKEL_SPOOL: folder, ISKEL_RUN: 'unseen' }, path);
  const events: { method: string; params: Json; session?: string }[] = [];
  client.heard((method, params, session) => events.push({ method, params, ...(session ? { session } : {}) }));
  try {
    return await asked(client, events);
  } finally {
    await client.close();
  }
}

async function asked(
  { send, next }: Client,
  events: readonly { method: string; params: Json; session?: string }[],
): Promise<Record<string, unknown>> {
  const attached = async (): Promise<string[]> => {
    const { targetInfos } = await send<{ targetInfos: Json[] }>('Target.getTargets');
    return targetInfos.map(({ type, attached }) => `${type} ${attached}`).sort();
  };
  await sleep(500);
  const out: Record<string, unknown> = { before: await attached() };
  await send('Target.setDiscoverTargets', { discover: true });
  const { browserContextIds } = await send<{ browserContextIds: string[] }>('Target.getBrowserContexts');
  out.contexts = browserContextIds.length;
  const { browserContextId } = await send<{ browserContextId: string }>('Target.createBrowserContext');
  const { targetId } = await send<{ targetId: string }>('Target.createTarget', {
    url: 'about:blank',
    browserContextId,
  });
  await sleep(400);
  out.opened = await attached();
  const { sessionId } = await send<{ sessionId: string }>('Target.attachToTarget', { targetId, flatten: true });
  out.attached = await attached();
  const tell = <T = Json>(method: string, params: Json = {}): Promise<T> => send<T>(method, params, sessionId);
  for (const domain of ['Page', 'Runtime', 'Debugger', 'Profiler', 'Performance', 'DOM', 'CSS', 'Log', 'Network'])
    await tell(`${domain}.enable`);
  await tell('Profiler.startPreciseCoverage', { callCount: true, detailed: true });
  const loaded = next('Page.loadEventFired', sessionId);
  await tell('Page.navigate', { url: site.address });
  await loaded;
  await sleep(800);
  const { result } = await tell<{ result: { scriptId: string; url: string }[] }>('Profiler.takePreciseCoverage');
  out.covered = result.map(({ url }) => url).sort();
  out.targetInfo = (await send<{ targetInfo: Json }>('Target.getTargetInfo', { targetId })).targetInfo.attached;
  const of = (method: string): Json[] => events.filter((one) => one.method === method).map(({ params }) => params);
  out.worlds = of('Runtime.executionContextCreated').map(({ context }) => (context as Json).name);
  out.gone = of('Runtime.executionContextDestroyed').length;
  out.scripts = of('Debugger.scriptParsed')
    .map(({ url }) => url)
    .sort();
  out.console = of('Runtime.consoleAPICalled').length;
  out.log = of('Log.entryAdded').length;
  out.bindings = of('Runtime.bindingCalled').length;
  out.sessions = of('Target.attachedToTarget').map(({ targetInfo }) => (targetInfo as Json).type);
  out.created = of('Target.targetCreated')
    .map(({ targetInfo }) => `${(targetInfo as Json).type} ${(targetInfo as Json).attached}`)
    .sort();
  out.names = (
    await tell<{ result: { value: string } }>('Runtime.evaluate', {
      expression: 'Object.getOwnPropertyNames(globalThis).sort().join()',
      returnByValue: true,
    })
  ).result.value;
  out.driven = (
    await tell<{ result: { value: unknown } }>('Runtime.evaluate', { expression: 'navigator.webdriver' })
  ).result.value;
  await send('Target.detachFromTarget', { sessionId });
  out.detached = await attached();
  const changes = of('Target.targetInfoChanged').map(({ targetInfo }) => targetInfo as Json);
  // When it learns its address is the browser's own business.
  const states = changes.flatMap((one) => (one.targetId === targetId ? [one.attached] : []));
  out.changed = states.filter((one, i) => one !== states[i - 1]);
  return out;
}

it('targets, worlds, scripts, coverage, events and names are as without us; and it was recorded', async () => {
  const [plain, recorded] = [await told(chromium), await told(standIn)];
  expect(recorded).toEqual(plain);
  await eventually(
    () => Promise.resolve(readyIn(folder)),
    (list) => list.length > 0,
    10_000,
  );
});
