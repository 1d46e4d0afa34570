import { afterAll, beforeAll, expect, it } from 'vitest';
import { startFerrySite, type FerrySite } from '../demo/site/site.ts';
import { WebDriver } from '../demo/suite/webdriver.ts';
import type { EvidenceEvent } from '../src/core/evidence/event.ts';
import { chromeArguments, eventually, json, ready, startServerProcess, type ServerProcess } from './helpers.ts';

/** The same steps by a plain client through the endpoint, and by a drill: the same events but for ids and times. */

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

const eventsOf = async (id: string): Promise<EvidenceEvent[]> =>
  (await json<{ events: EvidenceEvent[] }>('GET', `${server.address}/api/attempts/${id}/events?limit=10000`)).body
    .events;

async function byClient(): Promise<string> {
  const driver = await WebDriver.open(`${server.address}/wd`, {
    browserName: 'chrome',
    'goog:chromeOptions': { args: chromeArguments },
    'iskel:attempt': { run: 'parity' },
  });
  await driver.implicit(4000);
  await driver.open(`${site.address}/sailings/e-1840`);
  await (await driver.find('#passenger')).type('Deniz');
  await (await driver.find('[data-seat="2A"]')).click();
  await (await driver.find('h1')).text();
  await driver.screenshot();
  await (await driver.find('#hold')).click();
  await (await driver.find('.held, [href^="/checkout"]')).text();
  await driver.outcome('passed');
  await driver.quit();
  return driver.attempt;
}

async function byDrill(): Promise<string> {
  const text = `drill "holds a seat"

implicit 4 s
open "${site.address}/sailings/e-1840"
type "Deniz" into css "#passenger"
press css "[data-seat=\\"2A\\"]"
read text of css "h1"
screenshot
press css "#hold"
read text of css ".held, [href^=\\"/checkout\\"]"
`;
  const drill = await json<{ id: string; errors?: unknown }>('POST', `${server.address}/api/drills`, { text });
  expect(drill).toMatchObject({ status: 201 });
  const { body } = await json<{ id: string }>('POST', `${server.address}/api/series`, {
    drillId: drill.body.id,
    engine: 'chromium',
    trials: 1,
  });
  const series = await eventually(
    async () =>
      (await json<{ state: string; trials: { id: string }[] }>('GET', `${server.address}/api/series/${body.id}`)).body,
    ({ state }) => state === 'done' || state === 'failed',
    60_000,
  );
  return series.trials[0]!.id;
}

/** What an event says without what no two attempts share: which steps, requests, lifelines, pages, windows, pictures there are. */
function told(events: readonly EvidenceEvent[]): Record<string, string[]> {
  const steps: string[] = [];
  const rest = new Set<string>();
  for (const event of events) {
    switch (event.lane) {
      case 'step': {
        const { command, action, label, locator, input, result, window, context, foundBy } = event.data;
        if (event.kind === 'command')
          steps.push(
            JSON.stringify({
              command,
              action,
              label,
              locator,
              input,
              result,
              inWindow: window !== undefined && window === context,
              found: foundBy !== undefined,
            }),
          );
        break;
      }
      case 'network': {
        const { method, url, status, own, type } = event.data;
        rest.add(`network ${method} ${new URL(url).pathname} ${status} ${own ? 'own' : 'outside'} ${type}`);
        break;
      }
      case 'body':
        rest.add(`body ${event.data.of} ${event.data.mime}`);
        break;
      case 'element':
        if (event.kind === 'appeared') rest.add(`element ${event.data.locator} ${event.kind}`);
        break;
      case 'screen':
        if (event.kind === 'screenshot') rest.add('a screenshot');
        break;
      case 'page':
        if (/navigation|dom-ready|loaded|circumstances|machine|press|focus/.test(event.kind))
          rest.add(`page ${event.kind}`);
        break;
      case 'window':
        if (event.kind === 'opened') rest.add('a window opened');
        break;
    }
  }
  return { steps, rest: [...rest].sort() };
}

it('a trial is recorded as a test is', async () => {
  const ids = [await byClient(), await byDrill()];
  for (const id of ids) expect((await ready(server.address, id)).outcome).toBe('passed');
  const [client, drill] = await Promise.all(ids.map(async (id) => told(await eventsOf(id))));
  expect(drill!.steps).toEqual(client!.steps);
  expect(drill!.rest).toEqual(client!.rest);
  expect(client!.rest).toEqual(
    expect.arrayContaining(['a screenshot', 'a window opened', 'page circumstances', 'body response application/json']),
  );
}, 120_000);
